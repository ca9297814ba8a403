/**
 * What the portal says of itself, as a page of OpenMetrics: CPU, memory, connections, queue, replicas, calls and their
 * durations by run and step. It can be told to lag, to hang, to count anew and to have a wrong clock.
 */
import type { Replicas } from './replicas'

/** Ways its page can be wrong. */
export interface PageFaults {
  /** It is of so long ago, and says so by its stamps, ms. */
  lagMs: number
  /** It never answers. */
  hangs: boolean
  /** It answers 500. */
  fails: boolean
  /** Its clock is so far ahead, ms: stamps and the header Date. */
  clockAheadMs: number
  /** Values carry stamps. */
  stamped: boolean
}

export const NO_PAGE_FAULTS: PageFaults = { lagMs: 0, hangs: false, fails: false, clockAheadMs: 0, stamped: false }

/** Upper bounds of durations, s. */
const BOUNDS_S = [0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10]
/** CPU is what was worked in the last stretch of this length, ms. */
const CPU_MS = 1000
/** Pages kept for one that lags, ms. */
const KEPT_MS = 120_000

interface Calls {
  run: string
  step: string
  received: number
  /** Answers of at most each bound, and all. */
  upTo: number[]
  answered: number
  seconds: number
}

/** What stands on one page: text in which AT stands for the stamp. */
interface Page {
  at: number
  lines: string[]
}

export class OwnFigures {
  faults: PageFaults = { ...NO_PAGE_FAULTS }
  connections = 0
  private calls = new Map<string, Calls>()
  private answers = new Map<string, number>()
  private worked = { at: 0, ms: 0, share: 0 }
  private readonly pages: Page[] = []

  constructor(
    private readonly replicas: Replicas,
    private readonly now: () => number = () => performance.now(),
  ) {}

  received(run: string, step: string): void {
    this.callsOf(run, step).received++
  }

  /** @param run whose request it was @param route and status of the answer @param tookMs inside */
  answered(run: string, step: string, route: string, status: number, tookMs: number): void {
    const key = `${route} ${status}`
    this.answers.set(key, (this.answers.get(key) ?? 0) + 1)
    const calls = this.callsOf(run, step)
    calls.answered++
    calls.seconds += tookMs / 1000
    BOUNDS_S.forEach((bound, i) => {
      if (tookMs / 1000 <= bound) calls.upTo[i]!++
    })
  }

  /** Counters begin at nothing, as after a restart. */
  restart(): void {
    this.calls = new Map()
    this.answers = new Map()
  }

  /**
   * The page as it is now, or as it was; kept when asked for.
   *
   * @param isOlder as text of version 0.0.4: counters are named whole, stamps are of ms, no end is marked
   */
  page(isOlder = false): string {
    const at = Date.now()
    this.pages.push({ at, lines: this.lines() })
    while (this.pages[0]!.at < at - KEPT_MS) this.pages.shift()
    const { lagMs, stamped, clockAheadMs } = this.faults
    const shown = this.pages.findLast(p => p.at <= at - lagMs) ?? this.pages[0]!
    const moment = shown.at + clockAheadMs
    const stamp = stamped || lagMs > 0 ? ` ${isOlder ? moment : (moment / 1000).toFixed(3)}` : ''
    const counters = shown.lines.flatMap(l => /^# TYPE (\S+) counter$/.exec(l)?.[1] ?? [])
    const comment = (line: string) =>
      isOlder ? line.replace(/^(# \w+ )(\S+)/, (_, head: string, name: string) => head + name + (counters.includes(name) ? '_total' : '')) : line
    const lines = shown.lines.map(l => (l.startsWith('#') ? comment(l) : l + stamp))
    return [...lines, ...(isOlder ? [] : ['# EOF']), ''].join('\n')
  }

  private callsOf(run: string, step: string): Calls {
    const key = `${run}\n${step}`
    let calls = this.calls.get(key)
    if (!calls) {
      calls = { run, step, received: 0, upTo: BOUNDS_S.map(() => 0), answered: 0, seconds: 0 }
      this.calls.set(key, calls)
    }
    return calls
  }

  /** Share of all workers that was at work of late. */
  private cpuShare(now: number): number {
    const ms = this.replicas.workedMs(now)
    const passed = now - this.worked.at
    if (passed >= CPU_MS) {
      const workers = this.replicas.serving(now) * this.replicas.settings.workers
      this.worked = { at: now, ms, share: Math.min(1, (ms - this.worked.ms) / (passed * workers)) }
    }
    return this.worked.share
  }

  private lines(): string[] {
    const now = this.now()
    const { replicas } = this
    const gauge = (name: string, help: string, value: number) => [
      `# TYPE ${name} gauge`,
      `# HELP ${name} ${help}`,
      `${name} ${value}`,
    ]
    const label = ({ run, step }: Calls) => `run="${escaped(run)}",step="${escaped(step)}"`
    const calls = [...this.calls.values()]
    return [
      ...gauge('portal_waiting', 'Requests waiting for a worker.', replicas.waiting(now)),
      ...gauge('portal_busy_workers', 'Workers at work.', replicas.busy(now)),
      ...gauge('portal_replicas', 'Replicas serving.', replicas.serving(now)),
      ...gauge('portal_cpu_ratio', 'Share of all workers at work in the last second.', rounded(this.cpuShare(now))),
      ...gauge('portal_memory_bytes', 'Memory in use.', process.memoryUsage.rss()),
      ...gauge('portal_connections', 'Connections open.', this.connections),
      '# TYPE portal_answers counter',
      '# HELP portal_answers Answers by route and status.',
      ...Array.from(this.answers, ([key, n]) => {
        const [route, status] = key.split(' ')
        return `portal_answers_total{route="${escaped(route ?? '')}",status="${status}"} ${n}`
      }),
      '# TYPE portal_calls counter',
      '# HELP portal_calls Requests received, by the run and the step they name.',
      ...calls.map(c => `portal_calls_total{${label(c)}} ${c.received}`),
      '# TYPE portal_call_seconds histogram',
      '# HELP portal_call_seconds Time inside.',
      ...calls.flatMap(c => [
        ...BOUNDS_S.map((bound, i) => `portal_call_seconds_bucket{${label(c)},le="${bound.toFixed(3)}"} ${c.upTo[i]}`),
        `portal_call_seconds_bucket{${label(c)},le="+Inf"} ${c.answered}`,
        `portal_call_seconds_sum{${label(c)}} ${rounded(c.seconds)}`,
        `portal_call_seconds_count{${label(c)}} ${c.answered}`,
      ]),
    ]
  }
}

const rounded = (n: number): number => Number(n.toFixed(6))

/** OpenMetrics 1.0, “escaped-string”. */
const escaped = (text: string): string => text.replace(/[\\"\n]/g, c => (c === '\n' ? '\\n' : `\\${c}`))
