/**
 * `placement`: what is reckoned anew after one keystroke in a grid of 20 groups × 40 locations, against a frame of 16
 * ms.
 */
import type { Plan } from '../core/plan/document'
import { resolveShares } from '../core/plan/shares'
import { usersPerCell } from '../core/run/slice'
import { seededRandom } from '../core/random/seeded'
import { benchDocument } from './document'
import { median, tell } from './measure'

const GROUPS = 20
const LOCATIONS = 40
const FRAME_MS = 16

export function benchPlacement(quick: boolean): void {
  const random = seededRandom(7)
  const codes = Array.from(
    { length: LOCATIONS },
    (_, i) => `L${String.fromCharCode(65 + Math.floor(i / 26), 65 + (i % 26))}`,
  )
  const letters = Array.from({ length: GROUPS }, (_, i) => String.fromCharCode(65 + i))
  const plan: Plan = {
    ...benchDocument('127.0.0.1:1', []).plan,
    groups: letters.map(letter => ({
      letter,
      name: letter,
      journeyId: 'j',
      profile: { startDelayMs: 0, segments: [{ to: 500 + Math.round(random() * 4000), overMs: 60_000 }] },
    })),
    locations: codes.map(code => ({ code, provider: 'n', region: code, machineType: 't', machines: 'auto' as const })),
    // Shares without a common divisor, the worst case; the last column takes what is left.
    placement: Object.fromEntries(
      letters.map(letter => [
        letter,
        Object.fromEntries(
          codes.map((code, i) => [code, i === LOCATIONS - 1 ? ('rest' as const) : 100 + Math.round(random() * 140)]),
        ),
      ]),
    ),
  }
  const times: number[] = []
  for (let i = 0; i < (quick ? 20 : 300); i++) {
    // One keystroke: another cell of another row each time.
    plan.placement[letters[i % GROUPS]!]![codes[i % (LOCATIONS - 1)]!] = 100 + (i % 140)
    const began = performance.now()
    usersPerCell({ plan })
    for (const letter of letters) resolveShares(plan, letter)
    times.push(performance.now() - began)
  }
  const value = median(times.slice(quick ? 5 : 50))
  tell({
    bench: 'placement',
    case: `${GROUPS} × ${LOCATIONS}`,
    value,
    unit: 'ms',
    reference: FRAME_MS,
    ratio: value / FRAME_MS,
    goal: '≤ 0.25',
  })
}
