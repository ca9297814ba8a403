/**
 * The cheapest machines that carry a location's load: an exact search over counts. Every option carries a part of the
 * load; the parts must add up to the whole, also after the largest machines are lost; no option that can be taken back
 * at once may be too large a share of it.
 *
 * Branch and bound (Land & Doig 1960): options in the order of their price per part, each branch held against what the
 * rest must cost at least when machines could be had in fractions. The largest machine used is fixed first, so that
 * what the spares add is part of that bound.
 */
import { ownOf } from '../values/own'

/** A kind of machine that can be taken at a location. */
export interface Option {
  /** Part of the location's load that one carries, above 0. */
  carries: number
  /** Of one, for the whole run. */
  cost: number
  vcpu: number
  /** Most that can be had. */
  most: number
  /** May be taken back, all of its kind at once. */
  interruptible?: boolean
  /** Kind of machine that it is, where some of that kind stand ready. */
  kind?: string
}

export interface SizingWishes {
  /** Most machines, and most vCPU, over all options. */
  mostMachines: number
  mostVcpu?: number
  /** Machines that stand ready by kind, and most that can be had besides. */
  ready?: { byKind: Readonly<Record<string, number>>, mostBesides: number }
  /** The load is still carried after losing this many of the largest. */
  spares: number
  /** Largest share of what is carried that one interruptible option may have, 0–1. */
  interruptibleShare: number
  /** What is minimised; left out: cost, then machines. */
  fewest?: 'machines'
  /** Branches to look into at most; left out: {@link MOST_BRANCHES}. */
  mostBranches?: number
}

/** Differences below this are none: costs are sums of binary fractions. */
const SAME = 1e-9
/**
 * Dozens of machines of a dozen kinds go together in more ways than can be tried while one types. After a number of
 * branches the search ends with the best it has found, and says how far above what fractions of machines would cost
 * that is.
 */
const MOST_BRANCHES = 40_000
/** As long as nothing has been found at all. */
const MOST_WITHOUT = 4 * MOST_BRANCHES

interface Best {
  counts: number[]
  price: number
  machines: number
}

/** Machines per option; `gap`: they cost at most this share more than the cheapest, 0 where everything was tried. */
export interface Cheapest {
  counts: number[]
  gap: number
}

/** @returns machines per option, same order; undefined when nothing fits */
export function cheapest(options: readonly Option[], wishes: SizingWishes): number[] | undefined {
  return searchCheapest(options, wishes)?.counts
}

/** The same, saying also how sure it is. @returns undefined when nothing fits */
export function searchCheapest(options: readonly Option[], wishes: SizingWishes): Cheapest | undefined {
  const work = { branches: 0, least: Number.POSITIVE_INFINITY, over: false }
  const usable = options
    .map((_, i) => i)
    .filter(
      i =>
        options[i]!.carries > 0 &&
        options[i]!.most > 0 &&
        !(options[i]!.interruptible && wishes.interruptibleShare <= 0),
    )
  let best: Best | undefined
  const take = (counts: readonly number[]) => {
    const price = priceOf(options, counts, wishes)
    const machines = counts.reduce((sum, n) => sum + n, 0)
    if (best && !(price < best.price - SAME || (price < best.price + SAME && machines < best.machines))) return
    best = { counts: [...counts], price, machines }
  }
  // One kind alone is a first answer to hold branches against.
  for (const i of usable) {
    const counts = options.map(() => 0)
    counts[i] = Math.ceil(1 / options[i]!.carries - SAME) + wishes.spares
    if (holds(options, counts, wishes)) take(counts)
  }
  if (wishes.spares === 0) searchWith(options, wishes, usable, 1, undefined, () => best, take, work)
  else {
    const smallest = Math.min(...usable.map(i => options[i]!.carries))
    for (const largest of [...usable].sort((a, b) => options[a]!.carries - options[b]!.carries)) {
      const { carries } = options[largest]!
      // Of several of the same size the first in the list stands for all.
      const no = usable.filter(
        i => options[i]!.carries < carries - SAME || (Math.abs(options[i]!.carries - carries) <= SAME && i >= largest),
      )
      searchWith(options, wishes, no, 1 + carries + (wishes.spares - 1) * smallest, largest, () => best, take, work)
    }
  }
  if (!best) return undefined
  // Set by the search, which the compiler does not follow into.
  const { counts, price } = best as Best
  return { counts, gap: work.over ? Math.max(0, price / work.least - 1) : 0 }
}

/**
 * @param among options that may be used @param need what must be carried at least @param must option of which there is
 * at least one
 */
// eslint-disable-next-line max-lines-per-function -- one calculation or case after the other, with what they share
function searchWith(
  options: readonly Option[],
  wishes: SizingWishes,
  among: readonly number[],
  need: number,
  must: number | undefined,
  best: () => Best | undefined,
  take: (counts: readonly number[]) => void,
  work: { branches: number, least: number, over: boolean },
): void {
  const price = (i: number) => (wishes.fewest ? 1 : options[i]!.cost)
  const share = wishes.interruptibleShare
  const isLimited = (i: number) => options[i]!.interruptible === true && share < 1
  const byPrice = [...among].sort(
    (a, b) =>
      price(a) / options[a]!.carries - price(b) / options[b]!.carries || options[b]!.carries - options[a]!.carries,
  )
  // Those whose share is limited come first: once they are counted it is known how much must be carried in all.
  const order = [...byPrice.filter(isLimited), ...byPrice.filter(i => !isLimited(i))]
  const limited = byPrice.filter(isLimited).length
  const largest = Math.max(0, ...order.map(i => options[i]!.carries))
  const mostFrom: number[] = [0]
  for (const i of [...order].reverse()) mostFrom.unshift(mostFrom[0]! + options[i]!.most * options[i]!.carries)
  // What is left to be counted at each depth, the cheapest first.
  const leftAt = order.map((_, depth) => byPrice.filter(i => order.indexOf(i) >= depth))
  // A fleet that can spare any machine that is not limited, though the largest are lost, has one too many.
  const enoughAfterLoss = 1 + (must === undefined ? wishes.spares * largest : wishes.spares * options[must]!.carries)
  const counts = options.map(() => 0)

  /**
   * What carrying the rest costs at least, in fractions of machines: the cheapest first, each as far as it may go.
   * @param whole what must be carried in all
   */
  const leastFrom = (depth: number, lacking: number, whole: number): number => {
    let left = lacking
    let least = 0
    for (const i of leftAt[depth] ?? []) {
      if (left <= SAME) break
      const option = options[i]!
      const part = Math.min(left, option.most * option.carries, isLimited(i) ? share * whole : Number.POSITIVE_INFINITY)
      least += (part * price(i)) / option.carries
      left -= part
    }
    return left > SAME ? Number.POSITIVE_INFINITY : least
  }

  /**
   * @param whole what must be carried in all: the load, and so much that no limited option counted so far has too large
   * a share
   */
  const search = (
    depth: number,
    carried: number,
    paid: number,
    machines: number,
    vcpu: number,
    whole: number,
  ): void => {
    const lacking = Math.max(0, whole - carried)
    if (++work.branches > (best() ? (wishes.mostBranches ?? MOST_BRANCHES) : MOST_WITHOUT)) {
      work.over = true
      return
    }
    const limit = best()
    if (limit) {
      const bound = paid + leastFrom(depth, lacking, whole)
      if (bound > limit.price + SAME) return
      // At the same price only fewer machines are better.
      if (bound > limit.price - SAME && machines + Math.ceil(lacking / largest - SAME) >= limit.machines) return
    }
    if (carried + mostFrom[depth]! < whole - SAME) return
    if (machines + Math.ceil(lacking / largest - SAME) > wishes.mostMachines) return
    if (depth === order.length) {
      if (holds(options, counts, wishes)) take(counts)
      return
    }
    const i = order[depth]!
    const option = options[i]!
    const useful = depth < limited ? Number.POSITIVE_INFINITY : Math.max(whole, enoughAfterLoss) + largest
    const room = Math.min(
      option.most,
      wishes.mostMachines - machines,
      Math.floor(((wishes.mostVcpu ?? Number.POSITIVE_INFINITY) - vcpu) / option.vcpu + SAME),
      Math.floor((useful - carried) / option.carries + SAME),
    )
    const fair = isLimited(i)
      ? Math.floor((share * Math.max(whole, carried)) / option.carries + SAME)
      : Number.POSITIVE_INFINITY
    const enough = Math.min(room, fair, Math.max(0, Math.ceil(lacking / option.carries - SAME)))
    const go = (n: number) => {
      if (i === must && n === 0) return
      counts[i] = n
      search(
        depth + 1,
        carried + n * option.carries,
        paid + n * price(i),
        machines + n,
        vcpu + n * option.vcpu,
        isLimited(i) ? Math.max(whole, (n * option.carries) / share) : whole,
      )
    }
    // First what just carries the rest, then less of it, then more: spares and shares may want that.
    for (let n = enough; n >= 0; n--) go(n)
    for (
      let n = enough + 1;
      n <= room && paid + n * price(i) <= (best()?.price ?? Number.POSITIVE_INFINITY) + SAME;
      n++
    )
      go(n)
    counts[i] = 0
  }
  work.least = Math.min(work.least, leastFrom(0, need, need))
  for (const spread of [1, 1.05, 1.15, 1.3, 1.6]) {
    const counts = rounded(options, byPrice, need * spread, share)
    if (must !== undefined && counts[must] === 0) counts[must] = 1
    if (holds(options, counts, wishes)) take(counts)
  }
  search(0, 0, 0, 0, 0, need)
}

/** A first answer: interruptible machines up to their share, the cheapest others for the rest, in whole machines. */
function rounded(options: readonly Option[], order: readonly number[], need: number, share: number): number[] {
  const counts = options.map(() => 0)
  let left = need
  for (const i of order) {
    const { carries, most, interruptible } = options[i]!
    const n = interruptible
      ? Math.floor(Math.min(left, share * need) / carries + SAME)
      : Math.ceil(left / carries - SAME)
    counts[i] = Math.max(0, Math.min(most, n))
    left -= counts[i]! * carries
  }
  return counts
}

function priceOf(options: readonly Option[], counts: readonly number[], { fewest }: SizingWishes): number {
  return counts.reduce((sum, n, i) => sum + n * (fewest ? 1 : options[i]!.cost), 0)
}

/** Whether machines carry the load as wished. */
export function holds(options: readonly Option[], counts: readonly number[], wishes: SizingWishes): boolean {
  const carried = options.reduce((sum, o, i) => sum + o.carries * counts[i]!, 0)
  const machines = counts.reduce((sum, n) => sum + n, 0)
  const vcpu = options.reduce((sum, o, i) => sum + o.vcpu * counts[i]!, 0)
  if (machines > wishes.mostMachines || vcpu > (wishes.mostVcpu ?? Number.POSITIVE_INFINITY)) return false
  if (
    options.some(
      (o, i) =>
        counts[i]! > o.most || (o.interruptible && o.carries * counts[i]! > wishes.interruptibleShare * carried + SAME),
    )
  )
    return false
  if (wishes.ready && besidesReady(options, counts, wishes.ready.byKind) > wishes.ready.mostBesides) return false
  return carried - lostWith(options, counts, wishes.spares) >= 1 - SAME
}

/** Machines that are taken besides those that stand ready. */
function besidesReady(
  options: readonly Option[],
  counts: readonly number[],
  byKind: Readonly<Record<string, number>>,
): number {
  const taken = new Map<string, number>()
  options.forEach(({ kind = '' }, i) => taken.set(kind, (taken.get(kind) ?? 0) + counts[i]!))
  return [...taken].reduce((sum, [kind, n]) => sum + Math.max(0, n - (ownOf(byKind, kind) ?? 0)), 0)
}

/** What the largest machines carry together. @param spares how many of them */
export function lostWith(options: readonly Option[], counts: readonly number[], spares: number): number {
  let left = spares
  let lost = 0
  for (const i of options.map((_, k) => k).sort((a, b) => options[b]!.carries - options[a]!.carries)) {
    const taken = Math.min(left, counts[i]!)
    lost += taken * options[i]!.carries
    left -= taken
  }
  return lost
}
