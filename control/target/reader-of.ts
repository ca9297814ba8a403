/** Which reader a source has. */
import type { CounterState } from '../../core/target/readings'
import type { Source } from '../../core/target/source'
import type { PageFetcher } from './page'
import { PageReader } from './page-reader'
import { ServerReader } from './server-reader'
import type { SourceReader } from './source-reader'

/** @param runId number of the run it is read for @param counters where an earlier reader of the same run ended */
export function readerOf(
  source: Source,
  fetcher: Pick<PageFetcher, 'fetch'>,
  runId: number,
  counters?: CounterState,
): SourceReader {
  return source.kind === 'server'
    ? new ServerReader(source, fetcher, runId, counters)
    : new PageReader(source, fetcher, runId, counters)
}
