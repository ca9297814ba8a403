/** What is out now and what it costs, shown on every screen: told every second, and whenever a run changes. */
import { monitorEventLoopDelay } from 'node:perf_hooks'
import type { MeterView } from '../../api/views'
import type { Clock } from '../clock'
import type { Library } from '../library/library'
import type { Fleet } from '../machines/fleet'
import type { Money } from '../machines/money'
import type { Ways } from '../machines/ways'
import type { ActiveRun, ActiveRuns } from '../run/active-run'
import type { Disk } from '../store/disk'
import type { Machine, MachineStore } from '../store/machines'
import type { RunStore } from '../store/runs'
import type { News } from './news'

/** How often it is told, ms. */
const TELL_MS = 1000
/** Over how long the controller's own delay is told, ms; and how often its timer looks, which is in what it sees. */
const DELAY_OVER_MS = 10_000
const DELAY_LOOK_MS = 10

export interface MeterOptions {
  clock: Clock
  machines: MachineStore
  fleet: Fleet
  money: Money
  ways: Ways
  active: ActiveRuns
  library: Library
  runs: RunStore
  news: News
  disk: Disk
  /** What is wrong with the key file. */
  keyTrouble: string | undefined
}

export class Meter {
  private readonly loopDelay = monitorEventLoopDelay({ resolution: DELAY_LOOK_MS })
  private loopDelayP99Ms = 0
  private readonly ticker
  private readonly delayTimer

  constructor(private readonly options: MeterOptions) {
    this.loopDelay.enable()
    this.ticker = options.clock.every(TELL_MS, () => this.tell())
    // Of this process, so by its own time, whatever clock runs.
    this.delayTimer = setInterval(() => {
      this.loopDelayP99Ms = Math.max(0, this.loopDelay.percentile(99) / 1e6 - DELAY_LOOK_MS)
      this.loopDelay.reset()
    }, DELAY_OVER_MS)
    this.delayTimer.unref()
  }

  tell(): void {
    this.options.news.tell({ kind: 'meter', meter: this.view() })
  }

  view(): MeterView {
    const { clock, machines, money, library, runs, active } = this.options
    const now = clock.now()
    const all = machines.out()
    const out = all.filter(m => m.allocatedAt !== undefined)
    return {
      now,
      machinesOut: out.length,
      machinesWanted: Math.max(wantedBy(active), out.length),
      perHour: out.reduce((sum, m) => sum + m.price.perHour + m.price.extrasPerHour, 0),
      today: money.today(now),
      budget: money.rails.budgetPerDay,
      nextLease: nextLease(out),
      loading: all.filter(m => m.state === 'loading' || m.state === 'draining').length,
      unconfirmed: all.filter(m => m.state === 'releaseUnconfirmed').length,
      run: firstOf(active),
      silent: this.silent(),
      strays: this.options.fleet.strays.length,
      troubles: this.troubles(),
      counts: {
        waiting: active.size,
        journeys: library.journeys().length,
        plans: library.plans().filter(p => !p.archived).length,
        runs: runs.count(),
      },
      loopDelayP99Ms: this.loopDelayP99Ms,
    }
  }

  close(): void {
    this.ticker.cancel()
    clearInterval(this.delayTimer)
    this.loopDelay.disable()
  }

  private troubles(): MeterView['troubles'] {
    const { disk, keyTrouble } = this.options
    return [
      ...(disk.trouble ? [{ word: 'Disk nearly full', sentence: disk.trouble }] : []),
      ...(keyTrouble ? [{ word: 'Key file is not here', sentence: keyTrouble }] : []),
    ]
  }

  private silent(): MeterView['silent'] {
    const { fleet, ways } = this.options
    return [...fleet.silent].map(([id, { sentence }]) => ({ provider: ways.get(id)?.name ?? id, sentence }))
  }
}

function wantedBy(active: ActiveRuns): number {
  return [...active.values()].flatMap(r => r.document.fleet).reduce((sum, order) => sum + order.machines, 0)
}

function nextLease(out: readonly Machine[]): MeterView['nextLease'] {
  const [next] = [...out].sort((a, b) => a.leaseEndsAt - b.leaseEndsAt)
  return next && { location: next.location, name: next.name, endsAt: next.leaseEndsAt }
}

function firstOf(active: ActiveRuns): MeterView['run'] {
  const first: ActiveRun | undefined = [...active.values()][0]
  return first && { id: first.id, state: first.stored.state, startAt: first.stored.startAt }
}
