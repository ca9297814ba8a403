/**
 * What stands between a plan and its run: everything that is in the way, costs soundness, or is good to know, each with
 * its remedy.
 */
import { planAtMost, planInUsers } from '../plan/expected'
import { peakOfPlan } from '../plan/peak'
import type { Plan } from '../plan/document'
import { sizePlan } from '../fleet/sizing'
import { locationProblems } from './location-problems'
import { inTheWay, type Problem, type Weight } from './problem'
import type { PlanSurroundings } from './plan-surroundings'
import { capacityProblems, peakProblems } from './capacity-problems'
import { targetProblems } from './target-problems'
import { groupProblems, driveProblems, networkProblems, clientProblems } from './group-problems'
import { objectiveProblems } from './objective-problems'

const ORDER: Record<Weight, number> = { inTheWay: 0, costsSoundness: 1, toKnow: 2 }

/** All problems, the weightiest first. A plan can start when none is in the way. */
export function problemsOf(plan: Plan, around: PlanSurroundings): Problem[] {
  const inUsers = planInUsers(plan, around.journeys)
  const sizing =
    around.sizing ??
    sizePlan(inUsers, {
      journeys: around.journeys,
      offers: around.offers,
      capacities: [],
      stale: [],
      billedS: around.lengthMs / 1000,
    })
  return [
    ...(plan.groups.length === 0
      ? [
          inTheWay(
            'no-group',
            'The plan has no user group: nobody would come.',
            'Add a group and give it a level over time.',
          ),
        ]
      : []),
    ...(plan.locations.length === 0
      ? [inTheWay('no-location', 'The plan has no location: there is nowhere to come from.', 'Add a location.')]
      : []),
    ...targetProblems(plan, around, peakOfPlan(planAtMost(plan, around.journeys))),
    ...plan.groups.flatMap(g => groupProblems(plan, g.letter, around)),
    ...plan.groups.flatMap(g => driveProblems(plan, g, around)),
    ...plan.groups.flatMap(g => networkProblems(plan, g, around)),
    ...plan.groups.flatMap(g => clientProblems(g, around)),
    ...plan.locations.flatMap(l =>
      locationProblems(
        inUsers,
        l.code,
        around.offers,
        sizing.find(s => s.code === l.code),
      ),
    ),
    ...objectiveProblems(plan, around),
    ...(plan.rehearse
      ? []
      : [
          {
            code: 'no-rehearsal',
            weight: 'costsSoundness' as const,
            sentence: 'The rehearsal is switched off.',
            remedy: 'The run can be qualified at best.',
            fix: { kind: 'rehearse' as const },
            price: 'about 20 s',
          },
        ]),
    ...capacityProblems(plan, around, sizing),
    ...peakProblems(sizing),
  ].sort((a, b) => ORDER[a.weight] - ORDER[b.weight])
}
