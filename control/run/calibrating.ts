/**
 * Leads a run that calibrates: level after level, second by second, until all is known that can be. What it has seen
 * lives in memory alone.
 */
import { estimate, STOLEN_ASIDE_SHARE, type HeldLevel, type WatchedSecond } from '../../core/capacity/estimate'
import type { CalibrationEvidence } from '../../core/capacity/calibration'
import { farBeyond, nextStep, warmingStep, type CalibrationStep } from '../../core/capacity/next-step'
import { SIGNAL_ORDER } from '../../core/capacity/signals'
import type { SecondFigures } from '../../core/merge/second-figures'
import type { RunDocument } from '../../core/run/document'
import type { SteeringOrder } from './steering'
import { keyed } from '../../core/values/written-out'
import { present } from '../../core/values/present'

/** Users come over this part of the settling time, so that nobody's connections storm in at once. */
const RISE_SHARE = 0.55
/** Figures of a second are looked for this long before it is given up, s. */
const PATIENCE_S = 6
/**
 * Seconds in which neighbours took CPU are waited out, up to this many in a whole calibration: its machine is paid for.
 */
const MOST_ASIDE_S = 120

interface Held extends CalibrationStep {
  fromS: number
  before: number
}

/** What a level has shown so far: quiet seconds per machine, and how many were set aside. */
interface Seen {
  perMachine: WatchedSecond[][]
  aside: number
}

export class Calibrating {
  private readonly task: NonNullable<RunDocument['calibration']>
  private readonly figures = new Map<number, SecondFigures>()
  /** Per machine, the levels it held. */
  private readonly levels: HeldLevel[][]
  private held: Held | undefined
  private asked = -1
  /** Levels held to warm up: they count for nothing else. */
  private readonly warmed: HeldLevel[] = []
  /** Set aside at the levels before. */
  private aside = 0
  private bytes = 0
  private passes = 0
  over = false

  /** @param machines siblings, in the order of their numbers */
  constructor(
    document: RunDocument,
    private readonly machine: CalibrationEvidence['machine'],
  ) {
    this.task = present(document.calibration, 'what is calibrated')
    const machines = document.fleet.reduce((sum, o) => sum + o.machines, 0)
    this.levels = Array.from({ length: machines }, () => [])
  }

  note(seconds: readonly SecondFigures[]): void {
    for (const figures of seconds) this.figures.set(figures.second, figures)
  }

  /** @param second of the run, now @returns what generators are to be told */
  step(second: number): SteeringOrder[] {
    if (second < 0 || second <= this.asked || this.over) return []
    this.asked = second
    this.held ??= this.next(second)
    if (!this.held) return []
    const seen = this.seenOf(this.held, second)
    const quiet = seen.perMachine[0]!
    const due = dueOf(this.held) + this.waited(seen)
    const isOver = second > due && (quiet.length >= this.held.holdS || second > due + PATIENCE_S)
    if (isOver || farBeyond(quiet)) this.close(this.held, second, seen)
    return this.held ? this.orders(this.held, second) : []
  }

  evidence(): CalibrationEvidence {
    const all = this.merged()
    const seen = this.held && this.seenOf(this.held, this.asked)
    return {
      estimate: estimate(all),
      levels: all,
      perMachine:
        this.levels.length < 2
          ? []
          : this.levels
              .map(l => estimate(l))
              .filter(e => e.outcome === 'measured')
              .map(e => e.users),
      machine: this.machine,
      ...(this.passes > 0 ? { bytesPerPass: this.bytes / this.passes } : {}),
      ...(this.held && seen && !this.over
        ? {
            step: {
              users: this.held.users,
              kind: this.held.kind,
              fromS: this.held.fromS,
              toS: dueOf(this.held) + this.waited(seen),
              aside: this.aside + seen.aside,
            },
          }
        : {}),
    }
  }

  private merged(): HeldLevel[] {
    return this.levels[0]!.map((first, k) => ({ ...first, seconds: this.levels.flatMap(l => l[k]!.seconds) }))
  }

  private next(second: number): Held | undefined {
    const { rules, verify } = this.task
    const before = this.held?.users ?? this.levels[0]!.at(-1)?.users ?? 0
    // A mix that is verified comes once and stays: one level warms it.
    const isWarm = this.levels[0]!.length > 0 || (verify !== undefined && this.warmed.length > 0)
    const warming = isWarm ? undefined : warmingStep(rules, this.warmed)
    const step = warming ?? (verify ? this.verifying() : nextStep(this.merged(), rules))
    if (!step) this.over = true
    return step && { ...step, fromS: second, before }
  }

  /** One level, held like a confirming one. */
  private verifying(): CalibrationStep | undefined {
    const { rules, verify } = this.task
    return this.levels[0]!.length > 0 || !verify
      ? undefined
      : {
          users: verify.reduce((sum, n) => sum + n, 0),
          settleS: rules.settleS * 2,
          holdS: rules.confirmS,
          kind: 'confirm',
        }
  }

  private close({ users, kind }: Held, second: number, { perMachine, aside }: Seen): void {
    if (kind === 'warm') this.warmed.push({ users, seconds: perMachine[0]! })
    else
      perMachine.forEach((seconds, m) =>
        this.levels[m]!.push({
          users,
          seconds,
          ...(aside > 0 ? { aside } : {}),
          ...(kind === 'confirm' ? { confirming: true } : {}),
        }),
      )
    this.aside += aside
    for (const s of perMachine.flat()) {
      this.bytes += s.bytes
      this.passes += s.passes
    }
    for (const old of this.figures.keys()) if (old < second - PATIENCE_S) this.figures.delete(old)
    this.held = this.next(second)
  }

  /**
   * Settled seconds of a level until now, as many as it is held; of siblings those in which all were quiet. Warming up
   * minds no neighbours.
   */
  private seenOf({ kind, fromS, settleS, holdS }: Held, until: number): Seen {
    const machines = this.levels.length
    const { mostStolenShare = STOLEN_ASIDE_SHARE } = this.task
    const perMachine: WatchedSecond[][] = this.levels.map(() => [])
    let aside = 0
    for (let s = fromS + settleS; s < until && perMachine[0]!.length < holdS; s++) {
      const figures = this.figures.get(s)
      if (figures?.health?.length !== machines) continue
      const healths = figures.health.map(([number, ...values]) => ({
        number,
        health: keyed(SIGNAL_ORDER, (_, i) => values[i] ?? 0),
      }))
      if (kind !== 'warm' && healths.some(h => h.health.stolenShare > mostStolenShare)) {
        aside++
        continue
      }
      for (const { number, health } of healths)
        perMachine[number]?.push({
          passes: figures.passes / machines,
          right: figures.right / machines,
          failed: figures.failed / machines,
          bytes: figures.bytes / machines,
          health,
        })
    }
    return { perMachine, aside }
  }

  /** Seconds a level lasts longer for those that were set aside, as far as the patience goes. */
  private waited({ aside }: Seen): number {
    return Math.min(aside, Math.max(0, MOST_ASIDE_S - this.aside))
  }

  /** Users of each group over all generators, a little more each second until the level is reached. */
  private orders({ users, before, fromS, settleS }: Held, second: number): SteeringOrder[] {
    const way = Math.min(1, (second - fromS + 1) / Math.max(1, Math.round(settleS * RISE_SHARE)))
    const { verify } = this.task
    const machines = this.levels.length
    const now = before + (users - before) * way
    // A mix comes and stays in its proportions.
    return (verify ?? [users]).map((n, group) => ({ group, users: Math.round((n * now) / users) * machines }))
  }
}

/** Second after the last that is to count, when none is set aside. */
function dueOf({ fromS, settleS, holdS }: Held): number {
  return fromS + settleS + holdS
}
