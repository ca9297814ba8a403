/** What programs send of a target's own figures: kept for a minute, and told to whatever reads it for a run. */
import { OtlpSums } from '../../core/formats/otlp'
import type { MetricSample } from '../../core/target/metrics-page'

/** Samples that came at once. */
export interface Delivery {
  samples: readonly MetricSample[]
  /** ms since 1970. */
  at: number
}

export interface Listening {
  /** What came since it was last asked. */
  taken: () => Delivery[]
  end: () => void
}

/** What came is looked at for so long, when a source is tried, ms. */
const KEPT_MS = 60_000
/** At most this many samples are kept for that, and the newest delivery. */
const MOST_KEPT = 20_000
/** At most this many samples wait for a reader; what comes beyond is refused. */
export const MOST_WAITING = 200_000

/** Of one source. */
export class Letterbox {
  private readonly kept: Delivery[] = []
  /** Samples that are kept. */
  private size = 0
  private readonly sums = new OtlpSums()
  private readonly listeners = new Set<{ waiting: Delivery[], size: number }>()

  /** @returns for how many runs it is read; undefined: it comes faster than it can be read, and was not taken */
  put(sent: { samples: readonly MetricSample[], at: number }): number | undefined {
    const isFull = [...this.listeners].some(l => l.size + sent.samples.length > MOST_WAITING)
    if (isFull) return undefined
    // Only of what is taken: what is refused will be sent again.
    const delivery = { samples: this.sums.take(sent.samples), at: sent.at }
    this.keep(delivery)
    for (const listener of this.listeners) {
      listener.waiting.push(delivery)
      listener.size += delivery.samples.length
    }
    return this.listeners.size
  }

  private keep(delivery: Delivery): void {
    this.kept.push(delivery)
    this.size += delivery.samples.length
    while (this.kept.length > 1 && (this.size > MOST_KEPT || this.kept[0]!.at <= delivery.at - KEPT_MS))
      this.size -= this.kept.shift()?.samples.length ?? 0
  }

  latest(now: number): Delivery[] {
    return this.kept.filter(d => d.at > now - KEPT_MS)
  }

  listen(): Listening {
    const listener = { waiting: [] as Delivery[], size: 0 }
    this.listeners.add(listener)
    return {
      taken: () => {
        const { waiting } = listener
        listener.waiting = []
        listener.size = 0
        return waiting
      },
      end: () => void this.listeners.delete(listener),
    }
  }
}

export class Inbox {
  private readonly boxes = new Map<string, Letterbox>()

  of(targetId: string, source: string): Letterbox {
    const key = `${targetId}\n${source}`
    const box = this.boxes.get(key) ?? new Letterbox()
    this.boxes.set(key, box)
    return box
  }
}
