/**
 * Which journeys of a run a rehearsal tries: a command has no steps one user could go through, and runs under load
 * only.
 */
import type { Journey } from './journey'

/** Names of journeys that groups walk and no rehearsal tries. */
export function notRehearsed({
  plan,
  journeys,
}: {
  plan: { groups: readonly { journeyId: string }[] }
  journeys: readonly Journey[]
}): string[] {
  return journeys.filter(j => j.kind === 'command' && plan.groups.some(g => g.journeyId === j.id)).map(j => j.name)
}
