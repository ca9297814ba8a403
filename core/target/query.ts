/**
 * Queries to a metrics server: whether one can be asked, and of which samples it is made. A server answers with the
 * moment it was asked for; how old its samples are has to be asked for besides.
 */
import { parser } from '@prometheus-io/lezer-promql'

export interface ReadQuery {
  /** Selectors of samples, as they are written: `calls_total{run="3"}`. */
  selectors: string[]
  /** It is one selector and nothing besides: each of its lines has a stamp of its own. */
  isSelector: boolean
}

/** It cannot be asked. The sentence is shown. */
export class QueryError extends Error {
  override name = 'QueryError'
}

/** @throws QueryError */
export function readQuery(text: string): ReadQuery {
  const tree = parser.parse(text)
  const selectors: string[] = []
  let wrongAt: number | undefined
  tree.iterate({
    enter: ({ name, type, from, to }) => {
      if (type.isError) wrongAt ??= from
      if (name === 'VectorSelector') selectors.push(text.slice(from, to))
    },
  })
  if (wrongAt !== undefined)
    throw new QueryError(
      wrongAt >= text.trimEnd().length ? 'The query breaks off.' : `The query cannot be read from “${text.slice(wrongAt, wrongAt + 20)}” on.`,
    )
  if (selectors.length === 0) throw new QueryError('The query names no metric.')
  const top = tree.topNode.firstChild?.name
  if (top === 'MatrixSelector' || top === 'SubqueryExpr')
    throw new QueryError('The query gives many samples at once; take one value of them, as in rate(…) or max_over_time(…).')
  return { selectors, isSelector: top === 'VectorSelector' }
}

/**
 * Asks for the newest stamp of what a query is made of, s since 1970: of each line where it is one selector, else the
 * oldest of its selectors, for each value of the label that tells lines apart.
 */
export function stampQuery({ selectors, isSelector }: ReadQuery, by?: string): string {
  if (isSelector) return `timestamp(${selectors[0]})`
  const newest = selectors.map(selector => `max ${by === undefined ? '' : `by (${by}) `}(timestamp(${selector}))`)
  return newest.reduce((oldest, next) => `(${next}) < (${oldest}) or (${oldest})`)
}

/** One line of what a metrics server answers: its labels, and values at moments, s since 1970. */
export interface AnsweredLine {
  metric: Record<string, string>
  values: [atS: number, value: string][]
}

/**
 * The moments that are asked for at once: each beat since the last time, the newest last.
 *
 * @param nowS of the server, s since 1970 @param lastS asked for last; undefined: nothing was
 */
export function momentsToAsk(
  nowS: number,
  lastS: number | undefined,
  everyS: number,
): { startS: number, endS: number } {
  if (lastS === undefined || lastS >= nowS) return { startS: nowS, endS: nowS }
  const missed = Math.ceil((nowS - lastS) / everyS - 1e-9) - 1
  return { startS: nowS - Math.min(missed, MOST_MOMENTS) * everyS, endS: nowS }
}

/** After a longer silence what came before is not asked for. */
const MOST_MOMENTS = 300
