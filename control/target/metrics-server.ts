/** A metrics server, asked by the open query API: over a range, for the time it has, for the metrics it knows. */
import type { AnsweredLine } from '../../core/target/query'
import type { Source } from '../../core/target/source'
import type { FetchedPage, PageFetcher } from './page'
import { SourceTrouble } from './trouble'

export interface QueryAnswer<T> extends Pick<FetchedPage, 'askedAt' | 'gotAt'> {
  data: T
  bytes: number
}

export class MetricsServer {
  constructor(
    private readonly source: Pick<Source, 'address' | 'authorization'>,
    private readonly fetcher: Pick<PageFetcher, 'fetch'>,
  ) {}

  /** What its clock shows, s since 1970. @throws SourceTrouble */
  async time(): Promise<QueryAnswer<number>> {
    const answer = await this.ask<{ resultType?: string, result?: [number, string] }>('query', { query: 'time()' })
    const nowS = Number(answer.data?.result?.[1])
    if (answer.data?.resultType !== 'scalar' || !Number.isFinite(nowS)) throw noServer('it does not say what time it is')
    return { ...answer, data: nowS }
  }

  /** @throws SourceTrouble */
  async range(query: string, startS: number, endS: number, stepS: number): Promise<AnsweredLine[]> {
    const { data } = await this.ask<{ resultType?: string, result?: AnsweredLine[] }>('query_range', {
      query,
      start: startS.toFixed(3),
      end: endS.toFixed(3),
      step: String(stepS),
    })
    if (data?.resultType !== 'matrix' || !Array.isArray(data.result)) throw noServer('what it answers is no list of lines')
    return data.result
  }

  /** Names of metrics, and what is known of them. @throws SourceTrouble */
  async metrics(): Promise<{ name: string, type?: string, help?: string, unit?: string }[]> {
    const [names, known] = [
      await this.ask<string[]>('label/__name__/values'),
      await this.ask<Record<string, { type?: string, help?: string, unit?: string }[]>>('metadata'),
    ]
    if (!Array.isArray(names.data)) throw noServer('it does not say which metrics it has')
    return names.data.map(name => ({ name, ...known.data?.[name]?.[0] }))
  }

  private async ask<T>(what: string, asked: Record<string, string> = {}): Promise<QueryAnswer<T>> {
    const query = new URLSearchParams(asked).toString()
    const page = await this.fetcher.fetch({
      ...this.source,
      kind: 'server',
      address: `${this.source.address.replace(/\/+$/, '')}/api/v1/${what}${query === '' ? '' : `?${query}`}`,
    })
    const { status, data } = parsed<T>(page.text)
    if (status !== 'success') throw noServer('it does not answer “success”')
    const { askedAt, gotAt } = page
    return { data, askedAt, gotAt, bytes: Buffer.byteLength(page.text) }
  }
}

function parsed<T>(text: string): { status?: string, data: T } {
  try {
    // What is in `data` is looked at where it is taken apart.
    return JSON.parse(text) as { status?: string, data: T }
  }
  catch {
    throw noServer('what it answers is no JSON')
  }
}

const noServer = (why: string): SourceTrouble =>
  new SourceTrouble(
    'page',
    `It does not answer like a metrics server: ${why}.`,
    'Write the address its query API lies under, without /api/v1.',
  )
