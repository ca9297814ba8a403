/** Holds objectives against figures: met or not, at which load, and the answer to the plan's question as a sentence. */
import type { Figures } from '../merge/figures'
import type { Metric, Objective } from '../plan/document'
import { nameOf } from './sentence'
import type { Level } from './windows'

/** One objective at one level. */
export interface Judgement {
  objective: Objective
  level: Level
  /** ms or share; undefined when nothing was measured. */
  measured: number | undefined
  held: boolean
}

/** Where figures come from: those of a window, of an objective's step and location, failures among its times or not. */
export type FiguresFor = (window: Level, objective: Objective) => Figures

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

/** @param whole the whole load, for objectives that are judged over it */
export function judge(objectives: readonly Objective[], levels: readonly Level[], settled: boolean, figuresFor: FiguresFor, whole: Level | undefined = levels[0]): Answer {
  const judgements = objectives.flatMap((objective) => {
    const { window } = objective
    const judged = window === 'whole' ? whole ? [whole] : [] : levels
    return judged.map((level): Judgement => {
      const parts = typeof window === 'object' ? partsOf(level, window.everyS) : [level]
      const values = parts.map(part => measure(objective, figuresFor(part, objective), part))
      // Of several stretches the worst counts; one in which nothing was measured says nothing.
      const measured = values.reduce<number | undefined>((worst, v) => v === undefined || (worst !== undefined && isBetter(objective, v, worst)) ? worst : v, undefined)
      return { objective, level, measured, held: measured !== undefined && holds(objective, measured) }
    })
  })
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

function partsOf(level: Level, everyS: number): Level[] {
  const parts: Level[] = []
  for (let fromS = level.fromS; fromS + everyS <= level.toS; fromS += everyS) parts.push({ ...level, fromS, toS: fromS + everyS })
  return parts.length > 0 ? parts : [level]
}

function isBetter({ atLeast }: Objective, a: number, b: number): boolean {
  return atLeast === undefined ? a <= b : a >= b
}

function holds({ atMost, atLeast }: Objective, measured: number): boolean {
  return atLeast === undefined ? measured <= (atMost ?? Number.POSITIVE_INFINITY) : measured >= atLeast
}

export function measure(objective: Objective, figures: Figures, { fromS, toS, users }: Level): number | undefined {
  switch (objective.metric) {
    case 'p50': return figures.p50Ms
    case 'p90': return figures.p90Ms
    case 'p95': return figures.p95Ms
    case 'p99': return figures.p99Ms
    case 'mean': return figures.meanMs
    case 'failures': return figures.failureShare
    case 'throughput': return figures.started > 0 ? figures.right / (toS - fromS) : undefined
    case 'users': return figures.started > 0 ? users : undefined
  }
}

const TIMES: readonly Metric[] = ['p50', 'p90', 'p95', 'p99', 'mean']

/** The first objective that limits the time of a step: the one screens draw. */
export function timedObjective(objectives: readonly Objective[]): Objective & { step: string, atMost: number } | undefined {
  return objectives.find((o): o is Objective & { step: string, atMost: number } => o.step !== undefined && o.atMost !== undefined && TIMES.includes(o.metric))
}

/** “1.8 s”, “740 ms” or “0.5 %”. */
export function sayValue(objective: Objective, value: number): string {
  if (objective.metric === 'failures') return `${Number((value * 100).toPrecision(3))} %`
  if (objective.metric === 'throughput') return `${Number(value.toPrecision(3))}/s`
  if (objective.metric === 'users') return `${Math.round(value)} users`
  return value >= 1000 ? `${(value / 1000).toFixed(2)} s` : `${value >= 100 ? value.toFixed(0) : value.toPrecision(3)} ms`
}

function sayMeasured(judgement: Judgement): string {
  return `${nameOf(judgement.objective)} ${judgement.measured === undefined ? 'was not measured' : sayValue(judgement.objective, judgement.measured)}`
}

/** How near to its limit, or how far past it; not measured counts as furthest. */
function tightness(judgement: Judgement): number {
  if (judgement.measured === undefined) return Number.POSITIVE_INFINITY
  const { atMost, atLeast } = judgement.objective
  if (atLeast !== undefined) return judgement.measured > 0 ? atLeast / judgement.measured : Number.POSITIVE_INFINITY
  return atMost !== undefined && atMost > 0 ? judgement.measured / atMost : judgement.measured
}
