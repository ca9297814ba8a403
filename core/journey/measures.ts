/**
 * What is measured of a journey: its requests, bundles as a whole, spans and the whole round. Numbered alike on every
 * machine.
 */
import { isBundle, requestsOf, STAGES, stepsOf, type Journey } from './journey'

export interface Measure {
  name: string
  /** `request`: sent to the target and counted in the ledger; the others only time what requests already count. */
  kind: 'request' | 'bundle' | 'span' | 'round'
}

export type MeasureKind = Measure['kind']

/** Name of the measure every round has. */
const WHOLE_ROUND = 'Whole round'
/** Where a command's samples of a step it did not announce are filed. */
export const OTHER_STEP = 'other'

/** Requests and bundles in the order of the journey, then spans, then the whole round. */
export function measuresOf(journey: Journey): Measure[] {
  if (journey.kind === 'command') return [...journey.steps, OTHER_STEP].map(name => ({ name, kind: 'request' }))
  const steps = STAGES.flatMap(stage => stepsOf(journey, stage))
  return [
    ...steps.flatMap((step): Measure[] => [
      ...(isBundle(step) ? [{ name: step.name, kind: 'bundle' as const }] : []),
      ...requestsOf(step).map(r => ({ name: r.name, kind: 'request' as const })),
    ]),
    ...(journey.spans ?? []).map(s => ({ name: s.name, kind: 'span' as const })),
    // Of a round of one step the step says it all.
    ...(stepsOf(journey, 'round').length > 1 ? [{ name: WHOLE_ROUND, kind: 'round' as const }] : []),
  ]
}
