/** Leads a run that calibrates: level after level, second by second, until all is known that can be. What it has seen lives in memory alone. */
import { estimate, type Level, type WatchedSecond } from '../../core/capacity/estimate'
import type { CalibrationEvidence } from '../../core/capacity/calibration'
import { farBeyond, nextStep, warmingStep, type Step } from '../../core/capacity/next-step'
import { SIGNAL_ORDER, type Health } from '../../core/capacity/signals'
import type { SecondFigures } from '../../core/merge/second-figures'
import type { RunDocument } from '../../core/plan/document'
import type { Order } from './steering'

/** Users come over this part of the settling time, so that nobody's connections storm in at once. */
const RISE_SHARE = 0.55
/** Figures of a second are looked for this long before it is given up, s. */
const PATIENCE_S = 6

interface Held extends Step { fromS: number, before: number }

export class Calibrating {
  private readonly figures = new Map<number, SecondFigures>()
  /** Per machine, the levels it held. */
  private readonly levels: Level[][]
  private held: Held | undefined
  private asked = -1
  private warm = false
  private bytes = 0
  private passes = 0
  over = false

  /** @param machines siblings, in the order of their numbers */
  constructor(private readonly document: RunDocument, private readonly machine: CalibrationEvidence['machine']) {
    const machines = document.fleet.reduce((sum, o) => sum + o.machines, 0)
    this.levels = Array.from({ length: machines }, () => [])
  }

  note(seconds: readonly SecondFigures[]): void {
    for (const figures of seconds) this.figures.set(figures.second, figures)
  }

  /** @param second of the run, now @returns what generators are to be told */
  step(second: number): Order[] {
    if (second < 0 || second <= this.asked || this.over) return []
    this.asked = second
    this.held ??= this.next(second)
    if (!this.held) return []
    const { fromS, settleS, holdS } = this.held
    const seen = this.seenOf(this.held)
    if (second > fromS + settleS + holdS && (seen[0]!.length >= holdS || second > fromS + settleS + holdS + PATIENCE_S)) this.close(second, seen)
    else if (farBeyond(seen[0]!)) this.close(second, seen)
    return this.held ? this.orders(this.held, second) : []
  }

  evidence(): CalibrationEvidence {
    const all = this.merged()
    return {
      estimate: estimate(all), levels: all, perMachine: this.levels.length < 2 ? [] : this.levels.map(l => estimate(l)).filter(e => e.outcome === 'measured').map(e => e.users), machine: this.machine,
      ...(this.passes > 0 ? { bytesPerPass: this.bytes / this.passes } : {}),
      ...(this.held && !this.over ? { step: { users: this.held.users, kind: this.held.kind, fromS: this.held.fromS, toS: this.held.fromS + this.held.settleS + this.held.holdS } } : {}),
    }
  }

  private merged(): Level[] {
    return this.levels[0]!.map((first, k) => ({ ...first, seconds: this.levels.flatMap(l => l[k]!.seconds) }))
  }

  private next(second: number): Held | undefined {
    const { calibration } = this.document
    const before = this.held?.users ?? this.levels[0]!.at(-1)?.users ?? 0
    const step = !this.warm ? warmingStep(calibration!.rules) : calibration!.verify ? this.verifying() : nextStep(this.merged(), calibration!.rules)
    if (!step) this.over = true
    return step && { ...step, fromS: second, before }
  }

  /** One level, held like a confirming one. */
  private verifying(): Step | undefined {
    const { rules, verify } = this.document.calibration!
    return this.levels[0]!.length > 0 ? undefined : { users: verify!.reduce((sum, n) => sum + n, 0), settleS: rules.settleS * 2, holdS: rules.confirmS, kind: 'confirm' }
  }

  private close(second: number, seen: WatchedSecond[][]): void {
    const { users, kind } = this.held!
    if (kind === 'warm') this.warm = true
    else seen.forEach((seconds, m) => this.levels[m]!.push({ users, seconds, ...(kind === 'confirm' ? { confirming: true } : {}) }))
    for (const s of seen.flat()) {
      this.bytes += s.bytes
      this.passes += s.passes
    }
    for (const old of this.figures.keys()) if (old < second - PATIENCE_S) this.figures.delete(old)
    this.held = this.next(second)
  }

  /** Settled seconds of a level so far, per machine. */
  private seenOf({ fromS, settleS, holdS }: Held): WatchedSecond[][] {
    const machines = this.levels.length
    const seen: WatchedSecond[][] = this.levels.map(() => [])
    for (let s = fromS + settleS; s < fromS + settleS + holdS; s++) {
      const figures = this.figures.get(s)
      if (figures?.health?.length !== machines) continue
      for (const [number, ...values] of figures.health) {
        const health = Object.fromEntries(SIGNAL_ORDER.map((signal, i) => [signal, values[i] ?? 0])) as unknown as Health
        seen[number]?.push({ passes: figures.passes / machines, right: figures.right / machines, failed: figures.failed / machines, bytes: figures.bytes / machines, health })
      }
    }
    return seen
  }

  /** Users of each group over all generators, a little more each second until the level is reached. */
  private orders({ users, before, fromS, settleS }: Held, second: number): Order[] {
    const way = Math.min(1, (second - fromS + 1) / Math.max(1, Math.round(settleS * RISE_SHARE)))
    const { verify } = this.document.calibration!
    const machines = this.levels.length
    const now = before + (users - before) * way
    // A mix comes and stays in its proportions.
    return (verify ?? [users]).map((n, group) => ({ group, users: Math.round(n * now / users) * machines }))
  }
}
