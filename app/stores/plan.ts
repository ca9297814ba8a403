/** The plan on the sheet: as saved, as edited, and checked anew with every change. */
import { defineStore } from 'pinia'
import { clockTime } from '~/format/moments'
import type { SavedPlan } from '~~/api/answers'
import type { PlanCheck, PlanView, RunLine } from '~~/api/views'
import { euro } from '~~/core/values/said-figures'
import { machinesOf } from '~/format/sizing'
import { planInUsers } from '~~/core/plan/expected'
import { applyFix } from '~~/core/checks/apply-fix'
import type { Fix } from '~~/core/checks/problem'
import type { Plan } from '~~/core/plan/document'
import { present } from '~~/core/values/present'

/** A change of the fleet is said so long, ms. */
const SAID_MS = 6000

export const usePlan = defineStore('plan', () => {
  const { problem, guarded, reading } = useGuarded()
  const { now: plan, past, future, begin, settled, edit, undo, redo } = useEdited<Plan>('plan', () => recheck())
  const view = shallowRef<PlanView>()
  const check = shallowRef<PlanCheck>()
  const saving = ref(false)
  /** Somebody else has saved since this was loaded: their version. Nothing of either is lost until one decides. */
  const conflict = ref<number>()

  const changed = computed(() => !!view.value && JSON.stringify(plan.value) !== JSON.stringify(view.value.plan))
  const inTheWay = computed(() => check.value?.problems.filter(p => p.weight === 'inTheWay') ?? [])
  /** Every level in users, whatever drives it. */
  const inUsers = computed<Plan | undefined>(before =>
    keepingUnchanged(before, plan.value && planInUsers(plan.value, view.value?.journeys ?? [])))
  /** It, for what can be done only once it is there. */
  const shown = () => present(view.value, 'the plan that is shown')
  const edited = () => present(plan.value, 'the plan that is edited')
  const itself = () => ({ plan: shown().id })

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
  /** A plan that was the last here, with nothing unsaved, stands as it was while it is read again. */
  async function load(id: string, version?: number): Promise<void> {
    conflict.value = undefined
    const isNewest = view.value?.id === id && view.value.version === view.value.latest
    const stands = version === undefined && isNewest && !changed.value
    if (!stands) {
      view.value = undefined
      begin(undefined)
    }
    await reading(async () => {
      const loaded = await newestLoad(() => api('plan', { plan: id, version }))
      if (!loaded) return
      view.value = keepingUnchanged(view.value, loaded)
      const draft = begin(loaded.plan, version === undefined ? id : undefined, loaded.latest)
      if (draft) view.value = { ...loaded, latest: draft.on }
      sayDraft(draft?.at)
      check.value = keepingUnchanged(check.value, loaded.check)
    })
  }

  /** What the last edit did to the fleet, for a moment: “12 → 13 machines, +€0.21/h”. */
  const sizeChange = ref('')
  let forget: ReturnType<typeof setTimeout> | undefined
  function sayChange(before: PlanCheck | undefined, now: PlanCheck): void {
    const machines = (c: PlanCheck) => c.sizes.reduce((sum, s) => sum + machinesOf(s), 0)
    if (!before || (machines(before) === machines(now) && Math.abs(before.perHour - now.perHour) < 0.0005)) return
    const money = now.perHour - before.perHour
    sizeChange.value = `${machines(before)} → ${machines(now)} machines, ${money < 0 ? '−' : '+'}${euro(Math.abs(money))}/h`
    clearTimeout(forget)
    forget = setTimeout(() => {
      sizeChange.value = ''
    }, SAID_MS)
  }

  const newestCheck = newestOnly()
  async function recheck(): Promise<void> {
    try {
      const before = check.value
      const now = await newestCheck(() => api('checkPlan', {}, { plan: edited() }))
      if (!now) return
      check.value = keepingUnchanged(before, now)
      sayChange(before, now)
      // Only what a check itself had to say: a save may have failed meanwhile.
      if (problem.value?.code === 'silent') problem.value = undefined
    }
    catch (error) {
      problem.value = problemOf(error)
    }
  }

  function saved({ version, savedAt, plan: as }: SavedPlan): void {
    view.value = {
      ...shown(),
      version,
      savedAt,
      plan: as,
      latest: version,
      history: [{ version, savedAt, name: as.name }, ...shown().history],
    }
    conflict.value = undefined
    settled(as, version)
    toast.add({ title: `Saved as version ${version}.`, duration: 2500 })
  }

  async function save(): Promise<boolean> {
    if (!view.value || !plan.value) return false
    if (!changed.value) return true
    saving.value = true
    const ok = await guarded(async () =>
      saved(await api('savePlan', itself(), { onVersion: shown().latest, plan: edited() })),
    )
    saving.value = false
    if (problem.value?.code === 'saved-meanwhile') conflict.value = (await api('plan', itself())).latest
    return ok
  }

  /** Mine becomes the version after theirs, which stays in the history. */
  async function saveOver(): Promise<void> {
    view.value = { ...shown(), latest: present(conflict.value, 'the version of somebody else') }
    if (!(await save())) return
    const { history } = await api('plan', itself())
    view.value = { ...shown(), history }
  }

  /** Mine is kept as a plan of its own, and theirs is shown. @returns the address of mine */
  async function keepMineApart(): Promise<string | undefined> {
    let id: string | undefined
    await guarded(async () => {
      const mine = await api(
        'newPlan',
        {},
        { plan: { ...edited(), name: `${edited().name}, mine`.slice(0, 80) } },
      )
      id = mine.id
    })
    return id
  }

  /** Saves, then starts. @returns the run */
  async function start(): Promise<RunLine | undefined> {
    if (!(await save())) return undefined
    let run: RunLine | undefined
    await guarded(async () => {
      run = await api('startPlan', itself())
    })
    return run
  }

  /** @returns the copy's id */
  async function clone(version?: number): Promise<string | undefined> {
    let id: string | undefined
    await guarded(async () => {
      id = (await api('clonePlan', itself(), { version })).id
    })
    return id
  }

  async function setArchived(archived: boolean): Promise<void> {
    if (await guarded(() => api('archivePlan', itself(), { archived }))) view.value = { ...shown(), archived }
  }

  /** Carries out a problem's remedy. Approving, and opening a journey, are the sheet's. */
  function fix(remedy: Fix): void {
    edit(p => applyFix(p, remedy))
  }

  return {
    view,
    plan,
    inUsers,
    check,
    problem,
    saving,
    changed,
    conflict,
    inTheWay,
    sizeChange,
    past,
    future,
    load,
    edit,
    undo,
    redo,
    recheck,
    save,
    saveOver,
    keepMineApart,
    start,
    clone,
    setArchived,
    fix,
  }
})
