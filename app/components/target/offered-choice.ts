/** What is chosen at first of a metric that a source offers. */
import type { TriedSource } from '~~/api/views'
import { kindsOf, type SeriesChoice, type SeriesKind, type Source } from '~~/core/target/source'

const KIND_OF: Readonly<Record<string, SeriesKind>> = { counter: 'count', histogram: 'p95', summary: 'mean' }

/** Names that an address and a line of words can hold. */
const plainName = (of: string) => of.replace(/[,;"·{}:]/g, ' ').replaceAll('_', ' ').trim().slice(0, 40)

/** @param source of it @param chosen those there already: no two are called the same */
export function offeredChoice(
  { of, type, unit }: Pick<TriedSource['offered'][number], 'of' | 'type' | 'unit'>,
  source: Pick<Source, 'kind'>,
  chosen: readonly Pick<SeriesChoice, 'name'>[],
): SeriesChoice {
  const usual = KIND_OF[type] ?? 'gauge'
  const kind = kindsOf(source).includes(usual) ? usual : 'gauge'
  const base = plainName(of) || 'series'
  let name = base
  for (let n = 2; chosen.some(c => c.name === name); n++) name = `${base.slice(0, 36)} ${n}`
  const shown = kind === 'count' ? '/s' : unit
  return { name, of, kind, ...(shown ? { unit: shown.slice(0, 12) } : {}) }
}
