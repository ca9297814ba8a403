/** Reads a source that is a page: fetches it, takes it apart, and says what of it is new. */
import { PageError, readMetricsPage } from '../../core/target/metrics-page'
import { SourceReadings, type CounterState, type Reading } from '../../core/target/readings'
import type { Source } from '../../core/target/source'
import { SourceClockBook } from '../../core/target/source-clock'
import { PathError } from '../../core/values/json-path'
import type { FetchedPage, PageFetcher } from './page'
import { SourceTrouble } from './trouble'
import { ageOf, type SourceReader, type SourceReading } from './source-reader'

export class PageReader implements SourceReader {
  private readonly readings: SourceReadings
  private readonly clock = new SourceClockBook()

  constructor(
    private readonly source: Source,
    private readonly fetcher: Pick<PageFetcher, 'fetch'>,
    runId: number,
    counters?: CounterState,
  ) {
    this.readings = new SourceReadings(source, runId, counters)
  }

  get counters(): CounterState {
    return this.readings.state
  }

  /** @throws SourceTrouble */
  async read(): Promise<SourceReading> {
    const page = await this.fetcher.fetch(this.source)
    this.clock.note(page.date, page.askedAt, page.gotAt)
    const readAt = (page.askedAt + page.gotAt) / 2
    const clock = this.clock.known
    const reading = this.taken(page, readAt, clock?.offsetMs)
    return { ...reading, readAt, ageMs: ageOf(reading, page.gotAt), clock }
  }

  private taken(page: FetchedPage, readAt: number, offsetMs: number | undefined): Reading {
    try {
      return this.source.kind === 'json'
        ? this.readings.takeJson(JSON.parse(page.text), readAt, offsetMs)
        : this.readings.takePage(
            readMetricsPage(page.text, this.readings.wanted, isOpenMetrics(page)),
            readAt,
            offsetMs,
          )
    }
    catch (error) {
      throw unreadable(error)
    }
  }
}

/** As its media type says; undefined: its text must tell. */
export const isOpenMetrics = ({ type }: Pick<FetchedPage, 'type'>): boolean | undefined =>
  /^application\/openmetrics-text\b/i.test(type) ? true : /^text\/plain\b.*version=0/i.test(type) ? false : undefined

/** What was wrong with a page, in words. */
export function unreadable(error: unknown): SourceTrouble {
  if (error instanceof PageError)
    return new SourceTrouble('page', error.message, 'Check that the address is that of a page of metrics.')
  if (error instanceof PathError) return new SourceTrouble('page', error.message, 'Write a path like $.pool.inUse.')
  if (error instanceof SyntaxError)
    return new SourceTrouble('page', `It is no JSON: ${error.message}.`, 'Check the address: a page of JSON is read there.')
  throw error
}
