/** What browsers are told: at once; but of the fleet, which changes in many places at a time, once for all of it. */
import { EventEmitter } from 'node:events'
import type { LiveMessage } from '../../api/views'
import type { Clock } from '../clock'

/** Browsers are told that the fleet has changed this often at most, ms; more seldom the more there is to tell. */
const TELL_FLEET_MS = 250
const TELL_FLEET_MS_PER_MACHINE = 2
const TELL_FLEET_MOST_MS = 1000

export class News {
  /** Emits `live` with every message for browsers. */
  readonly live = new EventEmitter<{ live: [LiveMessage] }>()
  private fleetIsToBeTold = false

  /** @param machinesOut how many there are to tell of */
  constructor(
    private readonly clock: Clock,
    private readonly machinesOut: () => number,
  ) {}

  tell(message: LiveMessage): void {
    this.live.emit('live', message)
  }

  runChanged(runId: number): void {
    this.tell({ kind: 'run', runId })
  }

  calibrationsChanged(): void {
    this.tell({ kind: 'calibrations' })
  }

  fleetChanged(): void {
    if (this.fleetIsToBeTold) return
    this.fleetIsToBeTold = true
    const afterMs = Math.min(TELL_FLEET_MOST_MS, TELL_FLEET_MS + TELL_FLEET_MS_PER_MACHINE * this.machinesOut())
    this.clock.after(afterMs, () => {
      this.fleetIsToBeTold = false
      this.tell({ kind: 'fleet' })
    })
  }
}
