/** What a link opens to somebody without an account, and what of it is kept from them. */
import type { ComparedMetric } from '../compare/rows'

export interface SharedThing {
  /**
   * `run`: as it stands while it loads, its report once it is settled. `report`: the report alone. `comparison`: runs
   * beside each other.
   */
  kind: 'run' | 'report' | 'comparison'
  /** One; of a comparison two to six, the first of which the others are held against. */
  runs: number[]
  /** Of a comparison: level and figure; left out: as usual. */
  users?: number
  metric?: ComparedMetric
  /** Names and addresses of machines are shown. */
  showsMachines: boolean
  /** Exchanges that were kept can be had. */
  showsExchanges: boolean
}

/** What a machine or host is called, and what stands for it. */
export type Aliases = ReadonlyMap<string, string>

/**
 * Everything as it is, without names: wherever one stands by itself in a text, its alias stands instead. What is no
 * text stays.
 */
export function withoutNames<T>(of: T, aliases: Aliases): T {
  if (aliases.size === 0) return of
  // The longest first: one name may begin with another.
  const names = [...aliases.keys()].filter(n => n !== '').sort((a, b) => b.length - a.length).map(escaped)
  const pattern = new RegExp(`(?<![\\p{L}\\d_-])(?:${names.join('|')})(?![\\p{L}\\d_-])`, 'gu')
  // Names alone are changed.
  return changed(of, text => text.replace(pattern, name => aliases.get(name) ?? name)) as T
}

const escaped = (text: string) => text.replace(/[.*+?^${}()|[\]\\/]/g, '\\$&')

function changed(of: unknown, change: (text: string) => string): unknown {
  if (typeof of === 'string') return change(of)
  if (Array.isArray(of)) return of.map(item => changed(item, change))
  if (typeof of !== 'object' || of === null) return of
  return Object.fromEntries(Object.entries(of).map(([key, value]) => [key, changed(value, change)]))
}
