/** The plan on the sheet: as saved, as edited, and checked anew with every change. */
import { defineStore } from 'pinia'
import type { PlanCheck, PlanView, RunLine } from '~~/api/views'
import { euro } from '~/format/figures'
import { machinesOf } from '~/format/sizing'
import { planInUsers } from '~~/core/plan/expected'
import type { Mend } from '~~/core/checks/problem'
import type { Plan } from '~~/core/plan/document'

/** A change of the fleet is said so long, ms. */
const SAID_MS = 6000

type SavedPlan = Pick<PlanView, 'id' | 'version' | 'savedAt' | 'plan' | 'archived'>

export const usePlan = defineStore('plan', () => {
  const { problem, guarded } = useGuarded()
  const { now: plan, past, begin, edit, undo } = useEdited<Plan>(() => recheck())
  const view = ref<PlanView>()
  const check = ref<PlanCheck>()
  const saving = ref(false)
  /** Somebody else has saved since this was loaded: their version. Nothing of either is lost until one decides. */
  const conflict = ref<number>()

  const changed = computed(() => !!view.value && JSON.stringify(plan.value) !== JSON.stringify(view.value.plan))
  const inTheWay = computed(() => check.value?.problems.filter(p => p.weight === 'inTheWay') ?? [])
  /** Every level in users, whatever drives it. */
  const inUsers = computed(() => plan.value && planInUsers(plan.value, view.value?.journeys ?? []))
  const address = (rest = '') => `plans/${encodeURIComponent(view.value!.id)}${rest}`

  async function load(id: string, version?: number): Promise<void> {
    view.value = undefined
    conflict.value = undefined
    begin(undefined)
    await guarded(async () => {
      const loaded = await api<PlanView>(
        `plans/${encodeURIComponent(id)}${version === undefined ? '' : `?version=${version}`}`,
      )
      view.value = loaded
      begin(loaded.plan)
      check.value = loaded.check
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
      const now = await newestCheck(() => api<PlanCheck>('plans/check', 'POST', { plan: plan.value! }))
      if (!now) return
      check.value = now
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
      ...view.value!,
      version,
      savedAt,
      plan: as,
      latest: version,
      history: [{ version, savedAt, name: as.name }, ...view.value!.history],
    }
    conflict.value = undefined
  }

  async function save(): Promise<boolean> {
    if (!view.value || !plan.value) return false
    if (!changed.value) return true
    saving.value = true
    const ok = await guarded(async () =>
      saved(await api<SavedPlan>(address(), 'PUT', { onVersion: view.value!.latest, plan: plan.value! })),
    )
    saving.value = false
    if (problem.value?.code === 'saved-meanwhile') conflict.value = (await api<PlanView>(address())).latest
    return ok
  }

  /** Mine becomes the version after theirs, which stays in the history. */
  async function saveOver(): Promise<void> {
    view.value = { ...view.value!, latest: conflict.value! }
    if (!(await save())) return
    const { history } = await api<PlanView>(address())
    view.value = { ...view.value, history }
  }

  /** Mine is kept as a plan of its own, and theirs is shown. @returns the address of mine */
  async function keepMineApart(): Promise<string | undefined> {
    let id: string | undefined
    await guarded(async () => {
      const mine = await api<SavedPlan>('plans', 'POST', {
        plan: { ...plan.value!, name: `${plan.value!.name}, mine`.slice(0, 80) },
      })
      id = mine.id
    })
    return id
  }

  /** Saves, then starts. @returns the run */
  async function start(): Promise<RunLine | undefined> {
    if (!(await save())) return undefined
    let run: RunLine | undefined
    await guarded(async () => {
      run = await api<RunLine>(address('/start'), 'POST')
    })
    return run
  }

  /** @returns the copy's id */
  async function clone(version?: number): Promise<string | undefined> {
    let id: string | undefined
    await guarded(async () => {
      id = (await api<SavedPlan>(address('/clone'), 'POST', version === undefined ? {} : { version })).id
    })
    return id
  }

  async function setArchived(archived: boolean): Promise<void> {
    if (await guarded(() => api(address('/archive'), 'POST', { archived }))) view.value = { ...view.value!, archived }
  }

  /** Carries out a problem's remedy. Approving, and opening a journey, are the sheet's. */
  function mend(remedy: Mend): void {
    edit((p) => {
      switch (remedy.kind) {
        case 'setMachines':
          p.locations.find(l => l.code === remedy.location)!.machines = remedy.machines
          break
        case 'giveShare': {
          const row = (p.placement[remedy.group] ??= {})
          const now = row[remedy.location]
          row[remedy.location] = (typeof now === 'number' ? now : 0) + remedy.bp
          break
        }
        case 'rehearse':
          p.rehearse = true
          break
        case 'ramp':
          p.groups
            .find(g => g.letter === remedy.group)!
            .profile.segments.find((s, i, all) => s.overMs === 0 && s.to > (all[i - 1]?.to ?? 0))!.overMs =
            remedy.overMs
          break
        case 'clearNetwork':
          Reflect.deleteProperty(p.networks?.[remedy.group] ?? {}, remedy.location)
          break
        case 'dropPasses':
          Reflect.deleteProperty(
            p.groups.find(g => g.letter === remedy.group)!,
            'passes',
          )
          break
        case 'removeLocation':
          removeLocation(p, remedy.location)
          break
        case 'setSizing': {
          const { kind: _, ...change } = remedy
          p.sizing = { ...p.sizing, ...change }
          break
        }
        case 'calibrate':
        case 'approve':
        case 'openJourney':
      }
    })
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
    load,
    edit,
    undo,
    recheck,
    save,
    saveOver,
    keepMineApart,
    start,
    clone,
    setArchived,
    mend,
  }
})

/** Takes a location out, with every share and network that names it. */
export function removeLocation(plan: Plan, code: string): void {
  plan.locations = plan.locations.filter(l => l.code !== code)
  for (const row of [...Object.values(plan.placement), ...Object.values(plan.networks ?? {})])
    Reflect.deleteProperty(row, code)
}

export function removeGroup(plan: Plan, letter: string): void {
  plan.groups = plan.groups.filter(g => g.letter !== letter)
  Reflect.deleteProperty(plan.placement, letter)
  Reflect.deleteProperty(plan.networks ?? {}, letter)
}
