/** Watches live which generators pass their limits, and says it once per stretch, with what they were sized by. */
import {
  SIGNAL_LIMITS,
  SIGNAL_ORDER,
  SIGNAL_PHRASES,
  STOOD_STILL_MS,
  saySignal,
  sayStoodStill,
} from '../capacity/signals'
import { saySizedBy } from '../fleet/sized-by'
import type { SecondFigures } from '../merge/second-figures'
import type { RunDocument } from '../run/document'

/** Seconds in a row over a limit before it is told. */
const STRESSED_S = 5
/** Under all of them for so long, it is told anew when it comes back, s. */
const WELL_AGAIN_S = 30

export class StressWatch {
  private readonly inARow = new Map<number, { over: number, under: number, told: boolean }>()
  private seen = -1

  constructor(private readonly document: RunDocument) {}

  /** @param generators names and location codes by number @returns what is to be told now */
  note(seconds: readonly SecondFigures[], generators: readonly { name: string, location: number }[]): string[] {
    const told: string[] = []
    for (const { second, final, generators: signals } of seconds) {
      if (!final || second <= this.seen) continue
      this.seen = second
      for (const [number, ratio, signal] of signals) {
        const state = this.inARow.get(number) ?? { over: 0, under: 0, told: false }
        this.inARow.set(number, state)
        state.over = ratio > 1 ? state.over + 1 : 0
        state.under = ratio > 1 ? 0 : state.under + 1
        if (state.under >= WELL_AGAIN_S) state.told = false
        const generator = generators[number]
        const stoodStill = SIGNAL_ORDER[signal]!.endsWith('Ms') ? ratio * SIGNAL_LIMITS[SIGNAL_ORDER[signal]!] : 0
        if (generator && stoodStill >= STOOD_STILL_MS) told.push(sayStoodStill(generator.name, stoodStill, second))
        if (state.over < STRESSED_S || state.told) continue
        state.told = true
        if (generator) told.push(this.sentence(generator, ratio, signal))
      }
    }
    return told
  }

  private sentence(
    { name, location }: { name: string, location: number },
    ratio: number,
    signalNumber: number,
  ): string {
    const signal = SIGNAL_ORDER[signalNumber]!
    const limit = SIGNAL_LIMITS[signal]
    const code = this.document.plan.locations[location]!.code
    return `${name} is over its limit for ${STRESSED_S} s: ${SIGNAL_PHRASES[signal]} ${saySignal(signal, ratio * limit)}, limit ${saySignal(signal, limit)}. ${saySizedBy(this.document, code)}`
  }
}
