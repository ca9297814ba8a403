/** Holds objectives against figures: met or not, at which load, and the answer to the plan's question as a sentence. */
import type { Figures } from '../merge/figures'
import type { Objective } from '../plan/document'
import type { Level } from './windows'

/** One objective at one level. */
export interface Judgement {
  objective: Objective
  level: Level
  /** ms or share; undefined when nothing was measured. */
  measured: number | undefined
  held: boolean
}

/** Where figures come from: those of a window, optionally of one step and one location. */
export type FiguresFor = (window: Level, step: string | undefined, location: string | undefined) => Figures

export interface Answer {
  /** `none`: there was nothing to judge. */
  verdict: 'held' | 'broken' | 'none'
  /** Without the plan's question: “No: p95 of Enrol 2.41 s at 240 users. Held up to 160 users.” */
  sentence: string
  judgements: Judgement[]
  /** Highest settled level at which everything held, users. */
  heldUpTo?: number
  /** Whether the judged stretches were settled holds (else the whole load). */
  settled: boolean
}

export function judge(objectives: readonly Objective[], levels: readonly Level[], settled: boolean, figuresFor: FiguresFor): Answer {
  const judgements = levels.flatMap(level => objectives.map((objective): Judgement => {
    const measured = measure(objective, figuresFor(level, objective.step, objective.location))
    return { objective, level, measured, held: measured !== undefined && measured <= objective.atMost }
  }))
  if (judgements.length === 0) {
    return { verdict: 'none', sentence: objectives.length === 0 ? 'No answer: the plan has no objective.' : 'No answer: nothing was measured.', judgements, settled }
  }
  const broken = judgements.filter(j => !j.held)
  const heldLevels = levels.filter(l => judgements.every(j => j.level !== l || j.held)).map(l => l.users)
  const lowestBroken = Math.min(...broken.map(j => j.level.users))
  const heldUpTo = Math.max(0, ...heldLevels.filter(u => u < lowestBroken)) || undefined
  const most = Math.max(...levels.map(l => l.users))
  if (broken.length === 0) {
    const worst = judgements.filter(j => j.level.users === most).sort((a, b) => tightness(b) - tightness(a))[0]!
    return { verdict: 'held', sentence: `Yes: ${sayMeasured(worst)} at ${most} users${settled ? '' : ', over the whole load'}.`, judgements, heldUpTo: most, settled }
  }
  const first = broken.filter(j => j.level.users === lowestBroken).sort((a, b) => tightness(b) - tightness(a))[0]!
  const rest = heldUpTo ? ` Held up to ${heldUpTo} users.` : ''
  return { verdict: 'broken', sentence: `No: ${sayMeasured(first)} at ${lowestBroken} users${settled ? '' : ', over the whole load'}.${rest}`, judgements, ...(heldUpTo ? { heldUpTo } : {}), settled }
}

export function measure(objective: Objective, figures: Figures): number | undefined {
  switch (objective.metric) {
    case 'p50': return figures.p50Ms
    case 'p95': return figures.p95Ms
    case 'p99': return figures.p99Ms
    case 'failures': return figures.failureShare
  }
}

/** “p95 of Enrol from OSA”. */
export function nameOf(objective: Objective): string {
  const of = objective.metric === 'failures' ? 'failures' : objective.metric
  return `${of}${objective.step ? ` of ${objective.step}` : ''}${objective.location ? ` from ${objective.location}` : ''}`
}

/** “1.8 s”, “740 ms” or “0.5 %”. */
export function sayValue(objective: Objective, value: number): string {
  if (objective.metric === 'failures') return `${Number((value * 100).toPrecision(3))} %`
  return value >= 1000 ? `${(value / 1000).toFixed(2)} s` : `${value >= 100 ? value.toFixed(0) : value.toPrecision(3)} ms`
}

function sayMeasured(judgement: Judgement): string {
  return `${nameOf(judgement.objective)} ${judgement.measured === undefined ? 'was not measured' : sayValue(judgement.objective, judgement.measured)}`
}

/** How near to its limit, or how far past it; not measured counts as furthest. */
function tightness(judgement: Judgement): number {
  if (judgement.measured === undefined) return Number.POSITIVE_INFINITY
  return judgement.objective.atMost > 0 ? judgement.measured / judgement.objective.atMost : judgement.measured
}
