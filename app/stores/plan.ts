/** The plan on the sheet: as saved, as edited, and checked anew with every change. */
import { defineStore } from 'pinia'
import type { PlanCheck, PlanView, RunLine } from '~~/api/views'
import type { Mend } from '~~/core/plan/problems'
import type { Plan } from '~~/core/plan/document'

export const usePlan = defineStore('plan', () => {
  const { problem, guarded } = useGuarded()
  const { now: plan, past, begin, edit, undo } = useEdited<Plan>(() => recheck())
  const view = ref<PlanView>()
  const check = ref<PlanCheck>()
  const saving = ref(false)

  const changed = computed(() => !!view.value && JSON.stringify(plan.value) !== JSON.stringify(view.value.plan))
  const inTheWay = computed(() => check.value?.problems.filter(p => p.weight === 'inTheWay') ?? [])

  async function load(id: string): Promise<void> {
    view.value = undefined
    begin(undefined)
    await guarded(async () => {
      const loaded = await api<PlanView>(`plans/${encodeURIComponent(id)}`)
      view.value = loaded
      begin(loaded.plan)
      check.value = loaded.check
    })
  }

  async function recheck(): Promise<void> {
    try {
      check.value = await api<PlanCheck>('plans/check', 'POST', { plan: plan.value! })
      // Only what a check itself had to say: a save may have failed meanwhile.
      if (problem.value?.code === 'silent') problem.value = undefined
    }
    catch (error) { problem.value = problemOf(error) }
  }

  async function save(): Promise<boolean> {
    if (!view.value || !plan.value) return false
    if (!changed.value) return true
    saving.value = true
    const ok = await guarded(async () => {
      const saved = await api<{ version: number, savedAt: number, plan: Plan }>(`plans/${encodeURIComponent(view.value!.id)}`, 'PUT', { onVersion: view.value!.version, plan: plan.value! })
      view.value = { ...view.value!, ...saved }
    })
    saving.value = false
    return ok
  }

  /** Saves, then starts. @returns the run */
  async function start(): Promise<RunLine | undefined> {
    if (!await save()) return undefined
    let run: RunLine | undefined
    await guarded(async () => { run = await api<RunLine>(`plans/${encodeURIComponent(view.value!.id)}/start`, 'POST') })
    return run
  }

  /** Carries out a problem's remedy. Approving is a dialog of the sheet's. */
  function mend(remedy: Mend): void {
    if (remedy.kind === 'setMachines') edit((p) => { p.locations.find(l => l.code === remedy.location)!.machines = remedy.machines })
    if (remedy.kind === 'giveShare') {
      edit((p) => {
        const row = p.placement[remedy.group] ??= {}
        const now = row[remedy.location]
        row[remedy.location] = (typeof now === 'number' ? now : 0) + remedy.bp
      })
    }
  }

  return { view, plan, check, problem, saving, changed, inTheWay, past, load, edit, undo, recheck, save, start, mend }
})
