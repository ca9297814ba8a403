/** Ready-made placements: shares written for one, to be changed like any other. */
import { largestRemainder } from '../values/largest-remainder'
import type { Location } from './document'
import { WHOLE_BP } from './shares'

export type TrafficReading = { ok: true, shares: Record<string, number> } | { ok: false, problem: string }

/** Equal shares; the odd basis points go to the first ones. */
export function spreadEvenly(locations: readonly Pick<Location, 'code'>[]): Record<string, number> {
  return apportion(locations.map(l => [l.code, 1]))
}

/**
 * Shares from a table of where real traffic comes from: a location and a share or a count per line, separated by comma,
 * semicolon or tab; a heading may stand above. Locations are named by code or region; lines that name the same one are
 * added up.
 */
export function readTraffic(text: string, locations: readonly Pick<Location, 'code' | 'region'>[]): TrafficReading {
  const counts = new Map<string, number>()
  const lines = text.split(/\r?\n/).map(l => l.trim())
  for (const [index, line] of lines.entries()) {
    if (line === '') continue
    const match = /^"?([^";,\t]+?)"?\s*[;,\t]\s*"?([\d.,\s]+?)\s*%?"?$/.exec(line)
    if (!match) {
      if (counts.size === 0 && index === lines.findIndex(l => l !== '')) continue
      return { ok: false, problem: `Line ${index + 1}: “${line}” is no location with a number.` }
    }
    const name = match[1]!.trim().toLowerCase()
    const location = locations.find(l => l.code.toLowerCase() === name || l.region.toLowerCase() === name)
    if (!location)
      return {
        ok: false,
        problem: `Line ${index + 1}: “${match[1]!.trim()}” is no location of this plan: ${locations.map(l => l.code).join(', ')}.`,
      }
    const n = Number(
      match[2]!
        .replace(/\s/g, '')
        .replace(/,(?=\d{1,2}$)/, '.')
        .replaceAll(',', ''),
    )
    if (!Number.isFinite(n)) return { ok: false, problem: `Line ${index + 1}: “${match[2]}” is no number.` }
    counts.set(location.code, (counts.get(location.code) ?? 0) + n)
  }
  if ([...counts.values()].reduce((sum, n) => sum + n, 0) === 0)
    return { ok: false, problem: 'Nothing in it says where anybody comes from: write a location and a number a line.' }
  return { ok: true, shares: apportion([...counts]) }
}

/** Counts as basis points that add up to the whole. */
function apportion(counts: readonly (readonly [code: string, count: number])[]): Record<string, number> {
  const total = counts.reduce((sum, [, n]) => sum + n, 0)
  if (total === 0) return {}
  const bp = largestRemainder(
    counts.map(([, n]) => (n * WHOLE_BP) / total),
    WHOLE_BP,
  )
  return Object.fromEntries(counts.map(([code], i) => [code, bp[i]!]))
}
