/** Which reader a source has. */
import type { CounterState } from '../../core/target/readings'
import type { Source, SourceKind } from '../../core/target/source'
import { CommandReader } from './command-reader'
import { PageReader } from './page-reader'
import { SentReader } from './sent-reader'
import { ServerReader } from './server-reader'
import type { SourceReader, Surroundings } from './source-reader'

type Made = (source: Source, from: Surroundings, runId: number, counters?: CounterState) => SourceReader

const page: Made = (source, { pages }, runId, counters) => new PageReader(source, pages, runId, counters)
const READERS: Readonly<Record<SourceKind, Made>> = {
  metrics: page,
  json: page,
  server: (source, { pages }, runId, counters) => new ServerReader(source, pages, runId, counters),
  command: (source, { commands, now }, runId, counters) => new CommandReader(source, commands, now, runId, counters),
  sent: (source, { inbox, targetId, now }, runId, counters) =>
    new SentReader(source, inbox.of(targetId, source.name), now, runId, counters),
}

/** @param runId number of the run it is read for @param counters where an earlier reader of the same run ended */
export const readerOf: Made = (source, from, runId, counters) => READERS[source.kind](source, from, runId, counters)
