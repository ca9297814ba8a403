/**
 * Puts steps where they are wanted: added, doubled, moved, taken out, renamed. Changes the journey it is given; says
 * where the step is afterwards.
 */
import { isBundle, STAGES, type HttpJourney, type RequestStep, type Stage, type Step } from './journey'

/** Where a step is. */
export interface StepPosition {
  stage: Stage
  at: number
}

/** Names that results are filed under: steps and requests of bundles. */
export function namesOf(journey: HttpJourney): Set<string> {
  return new Set(
    STAGES.flatMap(stage =>
      journey[stage].flatMap(step => [step.name, ...(isBundle(step) ? step.requests.map(r => r.name) : [])]),
    ),
  )
}

/** The name, or the name with the first number that is free. */
export function freeName(journey: HttpJourney, base: string): string {
  const names = namesOf(journey)
  const stem = base.replace(/ \d+$/, '')
  let name = base
  for (let n = 2; names.has(name); n++) name = `${stem} ${n}`
  return name
}

/** A step to begin with, put after a place or at the end of a stage. */
export function addStep(
  journey: HttpJourney,
  stage: Stage,
  kind: 'request' | 'bundle',
  after?: StepPosition,
): StepPosition {
  const at = after?.stage === stage ? after.at + 1 : journey[stage].length
  const { think, ...request }: RequestStep = {
    name: freeName(journey, kind === 'bundle' ? 'Request' : 'Step'),
    method: 'GET',
    url: '/',
    think: { kind: 'uniform', fromMs: 1000, toMs: 3000 },
    timeoutMs: 10_000,
    expect: [{ kind: 'status', allow: '200' }],
  }
  const step: Step =
    kind === 'bundle'
      ? { name: freeName(journey, 'Bundle'), think, parallel: 6, requests: [request] }
      : { ...request, think }
  journey[stage].splice(at, 0, step)
  return { stage, at }
}

/** The same step once more, right behind, under names of its own. */
export function duplicateStep(journey: HttpJourney, { stage, at }: StepPosition): StepPosition {
  // A journey is a JSON document; structuredClone would refuse the proxies of a screen's state.
  // A copy of a step is one.
  const copy = JSON.parse(JSON.stringify(journey[stage][at])) as Step
  copy.name = freeName(journey, copy.name)
  journey[stage].splice(at + 1, 0, copy)
  // One after the other, for each takes a name away from the next.
  if (isBundle(copy)) for (const request of copy.requests) request.name = freeName(journey, request.name)
  return { stage, at: at + 1 }
}

/** @returns the neighbour that is chosen then; undefined when the stage is empty */
export function removeStep(journey: HttpJourney, { stage, at }: StepPosition): StepPosition | undefined {
  journey[stage].splice(at, 1)
  const left = journey[stage].length
  return left > 0 ? { stage, at: Math.min(at, left - 1) } : undefined
}

/** One up or down; from stage to stage at the ends. */
export function moveStep(journey: HttpJourney, from: StepPosition, by: -1 | 1): StepPosition {
  let { stage } = from
  let at = from.at + by
  if (at < 0 || at >= journey[stage].length) {
    const next = STAGES[STAGES.indexOf(stage) + by]
    if (!next) return from
    stage = next
    at = by < 0 ? journey[stage].length : 0
  }
  const moved = journey[from.stage].splice(from.at, 1)
  journey[stage].splice(at, 0, ...moved)
  return { stage, at }
}

/** The step before or after, over the stages; the first or last where there is none. */
export function neighbourOf(
  journey: HttpJourney,
  place: StepPosition | undefined,
  by: -1 | 1,
): StepPosition | undefined {
  const all = STAGES.flatMap(stage => journey[stage].map((_, at): StepPosition => ({ stage, at })))
  const here = all.findIndex(p => p.stage === place?.stage && p.at === place.at)
  return all[Math.max(0, Math.min(all.length - 1, here + by))]
}

/** Spans keep hold of the step they begin or end with. */
export function renameStep(journey: HttpJourney, { stage, at }: StepPosition, name: string): void {
  const step = journey[stage][at]!
  for (const span of journey.spans ?? []) {
    if (span.from === step.name) span.from = name
    if (span.to === step.name) span.to = name
  }
  step.name = name
}
