/** The journey on the screen: as saved, as edited, checked anew with every change, and as it was last tried. */
import { defineStore } from 'pinia'
import { clockTime } from '~/format/moments'
import type { JourneyView, TriedView } from '~~/api/views'
import {
  addStep as addTo,
  duplicateStep,
  moveStep,
  neighbourOf,
  removeStep,
  renameStep,
  type StepPosition,
} from '~~/core/journey/arrange'
import {
  isBundle,
  STAGES,
  type HttpJourney,
  type Journey,
  type RequestPart,
  type Stage,
  type Step,
} from '~~/core/journey/journey'
import type { JourneyProblem } from '~~/core/journey/problems'
import { present } from '~~/core/values/present'

/** What is chosen: the journey itself, or a step by stage and place. */
export type Chosen = { stage: Stage, at: number, part: number } | undefined

export const useJourney = defineStore('journey', () => {
  const { problem, guarded, reading } = useGuarded()
  const { now: journey, past, future, begin, settled, edit, undo, redo } = useEdited<Journey>('journey', () => recheck())
  const view = shallowRef<JourneyView>()
  const problems = shallowRef<JourneyProblem[]>([])
  const saving = ref(false)
  /** What it was edited from: what somebody saves meanwhile is told, not written over. */
  const onVersion = ref(0)
  const chosen = ref<Chosen>()
  const targetId = ref<string>()
  const tried = ref<TriedView & { at: number, targetId: string }>()
  const trying = ref(false)

  const changed = computed(() => !!view.value && JSON.stringify(journey.value) !== JSON.stringify(view.value.journey))
  const http = computed(() => (journey.value?.kind === 'http' ? journey.value : undefined))
  const step = computed((): Step | undefined => chosen.value && http.value?.[chosen.value.stage][chosen.value.at])
  /** The request that is edited: of a bundle, one of its requests. */
  const part = computed((): (RequestPart & { name: string }) | undefined => {
    const s = step.value
    return s && (isBundle(s) ? s.requests[chosen.value?.part ?? 0] : s)
  })
  const inTheWay = computed(() => problems.value.filter(p => p.weight === 'inTheWay'))
  const target = computed(() => view.value?.targets.find(t => t.id === targetId.value))

  const toast = useToast()
  /** A draft that came back says so. @param at when it was made, ms since 1970 */
  function sayDraft(at: number | undefined): void {
    if (at === undefined) return
    toast.add({
      title: `What you had not saved at ${clockTime(at).slice(0, 5)} is back.`,
      duration: 8000,
      actions: [{ label: 'Undo it', onClick: () => undo() }],
    })
  }

  const newestLoad = newestOnly()
  /** A journey that was the last here, with nothing unsaved, stands as it was while it is read again. */
  async function load(id: string, version?: number): Promise<void> {
    if (view.value?.journey.id !== id) tried.value = undefined
    const newestVersion = view.value?.history[0]?.version
    const isNewest = view.value?.journey.id === id && view.value.version === newestVersion
    const stands = version === undefined && isNewest && !changed.value
    if (!stands) {
      view.value = undefined
      begin(undefined)
    }
    await reading(async () => {
      const loaded = await newestLoad(() => api('journey', { journey: id, version }))
      if (!loaded) return
      view.value = keepingUnchanged(view.value, loaded)
      const newest = loaded.history[0]?.version ?? 0
      const draft = begin(loaded.journey, version === undefined ? id : undefined, newest)
      onVersion.value = draft?.on ?? newest
      sayDraft(draft?.at)
      problems.value = keepingUnchanged(problems.value, loaded.problems)
      targetId.value = loaded.targets.some(t => t.id === targetId.value)
        ? targetId.value
        : (loaded.targets.find(t => t.approval)?.id ?? loaded.targets[0]?.id)
      const { journey: read } = loaded
      const first = read.kind === 'http' ? STAGES.find(s => read[s].length > 0) : undefined
      if (!stands || !step.value) chosen.value = first && { stage: first, at: 0, part: 0 }
    })
  }

  /** Changes the chosen step. */
  function editStep(change: (step: Step) => void): void {
    const at = chosen.value
    if (at)
      edit((j) => {
        if (j.kind === 'http') change(j[at.stage][at.at]!)
      })
  }

  /** Changes the chosen request. */
  function editPart(change: (part: RequestPart & { name: string, off?: boolean }) => void): void {
    editStep((s) => {
      const p = isBundle(s) ? s.requests[chosen.value?.part ?? 0] : s
      if (p) change(p)
    })
  }

  const newestCheck = newestOnly()
  async function recheck(): Promise<void> {
    try {
      const now = await newestCheck(() =>
        api('checkJourney', {}, { journey: present(journey.value, 'the journey that is edited'), ...(targetId.value ? { targetId: targetId.value } : {}) }),
      )
      if (!now) return
      problems.value = now
      // Only what a check itself had to say: a save may have failed meanwhile.
      if (problem.value?.code === 'silent') problem.value = undefined
    }
    catch (error) {
      problem.value = problemOf(error)
    }
  }

  async function save(): Promise<boolean> {
    const [before, now] = [view.value, journey.value]
    if (!before || !now) return false
    if (!changed.value) return true
    saving.value = true
    const ok = await guarded(async () => {
      const saved = await api(
        'saveJourney',
        { journey: before.journey.id },
        { onVersion: onVersion.value, journey: now },
      )
      view.value = {
        ...before,
        ...saved,
        history: [{ version: saved.version, savedAt: saved.savedAt, name: saved.journey.name }, ...before.history],
      }
      settled(saved.journey, saved.version)
      onVersion.value = saved.version
      toast.add({ title: `Saved as version ${saved.version}.`, duration: 2500 })
    })
    saving.value = false
    return ok
  }

  /**
   * One user goes once through the journey as it is on the screen, saved or not. @param machineId an enrolled
   * generator's; left out: here
   */
  async function tryIt(machineId?: string): Promise<boolean> {
    const [now, at] = [journey.value, targetId.value]
    if (!now || !at || trying.value) return false
    trying.value = true
    const ok = await guarded(async () => {
      const result = await api(
        'tryJourney',
        {},
        { journey: now, targetId: at, ...(machineId ? { machineId } : {}) },
      )
      tried.value = { ...result, at: Date.now(), targetId: at }
    })
    trying.value = false
    return ok
  }

  // Steps.

  /** Rearranges the steps; what is chosen then is where the change says. */
  function arrange(change: (journey: HttpJourney, at: StepPosition) => StepPosition | undefined): void {
    const at = chosen.value
    if (!at) return
    let place: StepPosition | undefined = at
    edit((j) => {
      if (j.kind === 'http') place = change(j, at)
    })
    chosen.value = place && { ...place, part: place.stage === at.stage && place.at === at.at ? at.part : 0 }
  }

  function addStep(stage: Stage, kind: 'request' | 'bundle' = 'request'): void {
    edit((j) => {
      if (j.kind === 'http') chosen.value = { ...addTo(j, stage, kind, chosen.value), part: 0 }
    })
  }

  const duplicate = () => arrange(duplicateStep)
  const remove = () => arrange(removeStep)
  const move = (by: -1 | 1) => arrange((j, at) => moveStep(j, at, by))
  const rename = (name: string) =>
    arrange((j, at) => {
      renameStep(j, at, name)
      return at
    })

  /** Chooses the step before or after, over the stages. */
  function go(by: -1 | 1): void {
    const place = http.value && neighbourOf(http.value, chosen.value, by)
    chosen.value = place && { ...place, part: 0 }
  }

  return {
    view,
    journey,
    http,
    problems,
    problem,
    saving,
    past,
    future,
    chosen,
    step,
    part,
    targetId,
    target,
    tried,
    trying,
    changed,
    inTheWay,
    load,
    edit,
    editStep,
    editPart,
    undo,
    redo,
    recheck,
    save,
    tryIt,
    addStep,
    duplicate,
    remove,
    move,
    rename,
    go,
  }
})
