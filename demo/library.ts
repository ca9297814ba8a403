/** Puts the demo's target, journeys and plans into a coordinator's library. */
import type { Coordinator } from '../control/coordinator'
import type { Plan } from '../core/plan/document'
import { DEMO_JOURNEYS, DEMO_PLAN, demoTarget, STAIRS_PLAN } from './scenario'

/** An approval lasts this long from now, ms. */
const APPROVED_MS = 30 * 86_400_000

export const DEMO_PLANS: Record<string, Plan> = { 'enrolment-morning': DEMO_PLAN, 'how-far': STAIRS_PLAN }

export function fillLibrary(coordinator: Coordinator, portal: string, now: number): void {
  coordinator.library.saveTarget(demoTarget(portal, new Date(now + APPROVED_MS).toISOString()))
  for (const journey of DEMO_JOURNEYS) coordinator.library.saveJourney(journey)
  for (const [id, plan] of Object.entries(DEMO_PLANS)) {
    if (!coordinator.library.plan(id)) coordinator.savePlan(id, plan, 0)
  }
}
