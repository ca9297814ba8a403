/**
 * Looks up what one machine carries of a journey: calibrated, or the nearest thing to it that is known, or assumed; and
 * says which.
 */
import { useOf, type Capacity, type Use } from '../capacity/capacity'
import { SIGNAL_ORDER } from '../capacity/signals'
import type { MachineType } from '../offers/machine-type'

/**
 * How a machine's capacity is known, the best first. `otherNetwork`: calibrated with another network profile. `stale`:
 * what was calibrated has changed since. `scaled`: by vCPU from a calibrated sibling.
 */
const BASES = ['calibrated', 'otherNetwork', 'byHand', 'stale', 'scaled', 'assumed'] as const
export type Basis = (typeof BASES)[number]

export const BASIS_WORDS: Record<Basis, string> = {
  calibrated: 'calibrated',
  otherNetwork: 'calibrated with another network',
  byHand: 'set by hand',
  stale: 'calibrated before something changed',
  scaled: 'assumed from a calibrated type',
  assumed: 'assumed',
}

/** Nothing better than an assumption. */
export const UNSURE: readonly Basis[] = ['stale', 'scaled', 'assumed']

export interface Known {
  use: Use
  basis: Basis
  capacity?: Capacity
}

/** What is asked for: users of a journey, with their think time per pass, on a network, on a machine. */
export interface CapacityAsked {
  journeyId: string
  thinkMs: number
  pacingMs?: number
  network: string
  provider: string
  type: MachineType
}

export class CapacityBook {
  private readonly carrying: readonly Capacity[]

  /** @param stale ids of those whose fingerprint no longer fits */
  constructor(
    capacities: readonly Capacity[],
    private readonly stale: ReadonlySet<string>,
    private readonly assumedPerVcpu: number,
    private readonly headroom: number,
  ) {
    this.carrying = capacities.filter(c => c.outcome !== 'inconclusive' && c.lower > 0)
  }

  find(asked: CapacityAsked): Known {
    const ofJourney = this.carrying.filter(c => c.journeyId === asked.journeyId && c.provider === asked.provider)
    const ofType = ofJourney.filter(c => c.machineType === asked.type.name)
    const exact = newest(ofType.filter(c => c.network === asked.network && !this.stale.has(c.id)))
    if (exact) return this.known(exact, asked, exact.origin === 'byHand' ? 'byHand' : 'calibrated')
    const other = leastOf(ofType.filter(c => !this.stale.has(c.id)))
    if (other) return this.known(other, asked, 'otherNetwork')
    const stale = newest(ofType.filter(c => c.network === asked.network)) ?? leastOf(ofType)
    if (stale) return this.known(stale, asked, 'stale')
    const sibling = newest(ofJourney)
    if (sibling) {
      const { use, capacity } = this.known(sibling, asked, 'scaled')
      const ratio = asked.type.vcpu / sibling.vcpu
      return {
        use: Object.fromEntries(Object.entries(use).map(([s, u]) => [s, u / ratio])),
        basis: 'scaled',
        ...(capacity ? { capacity } : {}),
      }
    }
    return { use: { assumed: 1 / (this.assumedPerVcpu * asked.type.vcpu) }, basis: 'assumed' }
  }

  private known(capacity: Capacity, asked: CapacityAsked, basis: Basis): Known {
    return { use: useOf(capacity, asked, this.headroom), basis, capacity }
  }
}

function newest(capacities: readonly Capacity[]): Capacity | undefined {
  return capacities.reduce<Capacity | undefined>((best, c) => (!best || c.at > best.at ? c : best), undefined)
}

/** Of several networks the one that carries least: nobody is given more than was seen. */
function leastOf(capacities: readonly Capacity[]): Capacity | undefined {
  const latest = new Map<string, Capacity>()
  for (const c of capacities)
    if ((latest.get(c.network)?.at ?? Number.NEGATIVE_INFINITY) < c.at) latest.set(c.network, c)
  return [...latest.values()].reduce<Capacity | undefined>(
    (best, c) => (!best || c.lower < best.lower ? c : best),
    undefined,
  )
}

/** Whatever may be used up. */
export const USABLE = [...SIGNAL_ORDER, 'tried', 'assumed'] as const

/** Uses added up: of a mix of networks, or of groups. @param parts each with its weight */
export function sumOfUses(parts: readonly (readonly [Use, number])[]): Use {
  const sum: Use = {}
  for (const signal of USABLE) {
    let of = 0
    for (const [use, weight] of parts) of += (use[signal] ?? 0) * weight
    if (of > 0) sum[signal] = of
  }
  return sum
}

export function worstBasis(bases: readonly Basis[]): Basis {
  return bases.reduce<Basis>((worst, b) => (BASES.indexOf(b) > BASES.indexOf(worst) ? b : worst), 'calibrated')
}
