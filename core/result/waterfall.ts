/** One pass taken apart: what each exchange spent its time on, and what the pass did altogether. */
import type { PassExchange, PassRecord } from '../journey/pass-record'

/** In the order in which they come: finding the address, connecting, TLS, waiting for the first byte, the rest. */
export const SPELLS = ['lookup', 'connect', 'tls', 'wait', 'body'] as const
export type SpellKind = (typeof SPELLS)[number]

export interface Spell {
  kind: SpellKind
  /** From the start of the run, ms. */
  fromMs: number
  toMs: number
}

/** Without gaps, from the begin of an exchange to its end; what took no time is left out. */
export function spellsOf(e: PassExchange): Spell[] {
  const spells: Spell[] = []
  let at = e.beganAtMs
  const until = (kind: SpellKind, toMs: number) => {
    const end = Math.min(toMs, e.endedAtMs)
    if (end <= at) return
    spells.push({ kind, fromMs: at, toMs: end })
    at = end
  }
  for (const [kind, ms] of [['lookup', e.lookupMs], ['connect', e.connectMs], ['tls', e.tlsMs]] as const)
    if (ms > 0) until(kind, at + ms)
  until('wait', e.firstByteMs >= 0 ? e.beganAtMs + e.firstByteMs : e.endedAtMs)
  until('body', e.endedAtMs)
  return spells
}

/** What a pass spent its time on, ms; where exchanges ran beside each other, what counts first below counts. */
export interface PassShares {
  /** Until the first byte of an answer. */
  waitMs: number
  bodyMs: number
  /** Finding addresses, connecting, TLS. */
  connectingMs: number
  /** Nothing was under way: thinking, or pacing. */
  pauseMs: number
}

export function sharesOf({ beganAtMs, endedAtMs, exchanges }: PassRecord): PassShares {
  const spells = exchanges.flatMap(spellsOf)
  const edges = [...new Set([beganAtMs, endedAtMs, ...spells.flatMap(s => [s.fromMs, s.toMs])])]
    .filter(ms => ms >= beganAtMs && ms <= endedAtMs)
    .sort((a, b) => a - b)
  const shares: PassShares = { waitMs: 0, bodyMs: 0, connectingMs: 0, pauseMs: 0 }
  for (let i = 1; i < edges.length; i++) {
    const [from, to] = [edges[i - 1]!, edges[i]!]
    const kinds = new Set(spells.filter(s => s.fromMs <= from && s.toMs >= to).map(s => s.kind))
    const as = kinds.has('wait') ? 'waitMs' : kinds.has('body') ? 'bodyMs' : kinds.size > 0 ? 'connectingMs' : 'pauseMs'
    shares[as] += to - from
  }
  return shares
}

/** An exchange in a pass that is drawn out: moments from the begin of the pass, ms. */
export interface DrawnExchange {
  exchange: PassExchange
  spells: Spell[]
  fromMs: number
  toMs: number
  /** Until the next one begins, or the pass ends; 0: the next had begun already. */
  pauseMs: number
}

/**
 * The exchanges of a pass in the order in which they began.
 *
 * @param folded pauses are left out, so that what the target took fills the width
 */
export function drawnPass(pass: PassRecord, folded: boolean): { exchanges: DrawnExchange[], lengthMs: number } {
  const inOrder = [...pass.exchanges].sort((a, b) => a.beganAtMs - b.beganAtMs)
  let busyUntil = pass.beganAtMs
  /** What was left out so far. */
  let folds = pass.beganAtMs
  const exchanges = inOrder.map((exchange, i): DrawnExchange => {
    if (folded) folds += Math.max(0, exchange.beganAtMs - busyUntil)
    busyUntil = Math.max(busyUntil, exchange.endedAtMs)
    const next = inOrder[i + 1]?.beganAtMs ?? pass.endedAtMs
    return {
      exchange,
      spells: spellsOf(exchange).map(s => ({ ...s, fromMs: s.fromMs - folds, toMs: s.toMs - folds })),
      fromMs: exchange.beganAtMs - folds,
      toMs: exchange.endedAtMs - folds,
      pauseMs: Math.max(0, next - busyUntil),
    }
  })
  const end = folded ? busyUntil : Math.max(busyUntil, pass.endedAtMs)
  return { exchanges, lengthMs: Math.max(1, end - folds) }
}
