/**
 * Cells of the placement grid as typed: a share, and behind it the networks of its users: `40 city-fibre 70,
 * copper-line 30`. Without networks those of the cell stay; `direct` takes them away. What a mix leaves over has
 * nothing added.
 */
import type { NetworkMix, Share } from '../../core/plan/document'
import { printMix, readMix, type Named } from './mixes'
import { readShare } from './shares'

export interface Cell {
  share: Share
  mix: NetworkMix
}

export type CellReading = { ok: true, share: Share, mix: NetworkMix | undefined } | { ok: false, problem: string }

export function readCell(text: string, networks: readonly Named[]): CellReading {
  const trimmed = text.trim()
  // The pattern takes any text.
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
  const read = readMix(named, networks, 'network')
  return read.ok ? { ok: true, share, mix: read.mix } : read
}

/** As it would be typed; nothing for an empty cell. */
export function printCell({ share, mix }: Cell): string {
  if (share === 0) return ''
  const networks = printMix(mix)
  return `${share === 'rest' ? 'rest' : share / 100}${networks ? ` ${networks}` : ''}`
}

function shareProblem(text: string): string {
  const n = Number(text.replace('%', '').replace(',', '.'))
  if (n < 0) return `${text.trim()} is less than nothing: a share is from 0 to 100`
  if (n > 100) return `${text.trim()} is more than the whole: a share is from 0 to 100`
  return `“${text.trim()}” is no share: type a number from 0 to 100, or “rest”`
}
