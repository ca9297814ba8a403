/**
 * Cells of the placement grid as typed: a share, and behind it the networks of its users: `40 city-fibre 70,
 * copper-line 30`. Without networks those of the cell stay; `direct` takes them away. What a mix leaves over has
 * nothing added.
 */
import type { NetworkMix, Share } from '../../core/plan/document'
import { readShare } from './shares'

export interface Cell {
  share: Share
  mix: NetworkMix
}

export type CellReading = { ok: true, share: Share, mix: NetworkMix | undefined } | { ok: false, problem: string }

/** A network as it is called: by its id or its name. */
export interface NamedNetwork {
  id: string
  name: string
}

export function readCell(text: string, networks: readonly NamedNetwork[]): CellReading {
  const trimmed = text.trim()
  const match = /^([-+]?[\d.,]+\s*%?|rest|r|[-–])?\s*(.*)$/is.exec(trimmed)!
  const share = readShare(match[1] ?? '')
  if (share === undefined) return { ok: false, problem: shareProblem(match[1]!) }
  const named = match[2]!.trim()
  if (named === '') return { ok: true, share, mix: undefined }
  if (match[1] === undefined)
    return {
      ok: false,
      problem: `“${trimmed}” is no share: type a number from 0 to 100, or “rest”; a network may follow`,
    }
  if (/^(direct|none)$/i.test(named)) return { ok: true, share, mix: {} }
  const mix: NetworkMix = {}
  let left = 10_000
  // A comma between two digits is a decimal one.
  for (const part of named
    .split(/,(?!\d)|(?<!\d),|\+/)
    .map(p => p.trim())
    .filter(Boolean)) {
    const [, name, percent] = /^(.*?)\s*(\d+(?:[.,]\d+)?)?\s*%?$/.exec(part)!
    const network = find(name!, networks)
    if (!network) return { ok: false, problem: `There is no network “${name}”: ${networks.map(n => n.id).join(', ')}` }
    const bp = percent === undefined ? left : Math.round(Number(percent.replace(',', '.')) * 100)
    if (bp > left) return { ok: false, problem: `The networks add up to more than 100 %` }
    mix[network.id] = (mix[network.id] ?? 0) + bp
    left -= bp
  }
  return { ok: true, share, mix }
}

/** As it would be typed; nothing for an empty cell. */
export function printCell({ share, mix }: Cell): string {
  if (share === 0) return ''
  const networks = printMix(mix)
  return `${share === 'rest' ? 'rest' : share / 100}${networks ? ` ${networks}` : ''}`
}

export function printMix(mix: NetworkMix): string {
  const parts = Object.entries(mix).filter(([, bp]) => bp > 0)
  return parts.map(([id, bp]) => (bp === 10_000 ? id : `${id} ${bp / 100}`)).join(', ')
}

function find(name: string, networks: readonly NamedNetwork[]): NamedNetwork | undefined {
  const wanted = name.toLowerCase()
  const exact = networks.find(n => n.id === wanted || n.name.toLowerCase() === wanted)
  if (exact || wanted === '') return exact
  const begun = networks.filter(n => n.id.startsWith(wanted) || n.name.toLowerCase().startsWith(wanted))
  return begun.length === 1 ? begun[0] : undefined
}

function shareProblem(text: string): string {
  const n = Number(text.replace('%', '').replace(',', '.'))
  if (n < 0) return `${text.trim()} is less than nothing: a share is from 0 to 100`
  if (n > 100) return `${text.trim()} is more than the whole: a share is from 0 to 100`
  return `“${text.trim()}” is no share: type a number from 0 to 100, or “rest”`
}
