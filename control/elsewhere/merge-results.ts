/** Merges files of results into one run's file: the same road that a generator's frames take. */
import { asLongAs, claimedDocument, ClaimedSeries, claimOf, LONGEST_CLAIMED_S, MOST_CLAIMED_PLACES, type Sender } from '../../core/elsewhere/claimed-document'
import { stemOf, type Doubles, type ScannedFile } from '../../core/elsewhere/results'
import type { Average } from '../../core/elsewhere/row-reader'
import { failureOf, type ClaimedSample } from '../../core/elsewhere/sample'
import { recordOf } from '../../core/elsewhere/sample-record'
import { readObjective } from '../../core/objectives/read-objective'
import { middleValueOf } from '../../core/histogram/layout'
import type { ExchangeRecord } from '../../core/journey/exchange-record'
import { summarise, WITHOUT_TROUBLE, type RunSummary } from '../../core/result/summary'
import type { RunDocument } from '../../core/run/document'
import type { Source } from '../../core/target/source'
import { FileError } from '../imports/text-of-file'
import { ClaimedFrames } from '../ingest/claimed-frames'
import { keepExemplars } from '../ingest/exemplars'
import { RunMerge } from '../ingest/run-merge'
import { openRunFile } from '../store/open'
import { TargetFile } from '../store/target-file'
import { JoinedRun, type JoinedWish } from './joined-run'
import type { PresenceOf } from './presence'
import { readResults } from './read-results'
import { scan, SeenRows, type ResultFile, type ScanWish } from './scan'
import { present } from '../../core/values/present'

export interface MergeWish extends ScanWish {
  name: string
  /** Of equal rows in several files that do not name their user: all count, or one of each. */
  unnamedDoubles: 'keep' | 'leaveOut'
  /** As they are written in a plan. */
  objectives: readonly string[]
  /** They join it. */
  joined?: JoinedWish
  /** Files the run is written to. */
  path: string
  targetPath: string
}

export interface MergedResults {
  document: RunDocument
  /** ms since 1970. */
  startAt: number
  endedAt: number
  summary: RunSummary
  files: ScannedFile[]
  doubles: Doubles
}

/** Seconds behind the newest that are kept open: rows are written when they end, and files are not always in order. */
const OPEN_S = 120
/** Series of single seconds that are kept open where several files are read. */
const MOST_OPEN = 60_000
/** Frames between two writings: until then each of their series is held with room for any time. */
const FRAMES_AT_ONCE = 30
/** Failures that are kept with their message: of each kind in a second, and of the whole run. */
const KEPT_IN_SECOND = 3
const MOST_KEPT = 20_000

/** @throws FileError in words that say what to do */
export async function mergeResults(
  wish: MergeWish,
  now: number,
  onRows: (rows: number) => void,
): Promise<MergedResults> {
  const joined = wish.joined && new JoinedRun(wish.joined)
  try {
    return await mergedWith(joined, wish, now, onRows)
  }
  finally {
    joined?.close()
  }
}

// eslint-disable-next-line max-lines-per-function -- from looking through to the result, with what is known on the way
async function mergedWith(
  joined: JoinedRun | undefined,
  wish: MergeWish,
  now: number,
  onRows: (rows: number) => void,
): Promise<MergedResults> {
  const { files: found, doubles, presences } = await scan(wish, onRows)
  const shifts = clocksOf(wish, found, joined)
  const wanted = wish.files
    .flatMap((file, i) => {
      const scanned = found[i]!
      const { sameAs, firstMs, lastMs } = scanned
      if (sameAs !== undefined || firstMs === undefined || lastMs === undefined) return []
      return [{ ...file, scanned, firstMs, lastMs, shift: shifts[i]!, presence: presences[i]! }]
    })
  if (wanted.length === 0) throw new FileError('No row of it can be read.', 'Look at what each column is taken for.')
  const begunMs = Math.min(...wanted.map(f => f.firstMs + f.shift))
  const firstMs = joined?.beginsAt(begunMs) ?? Math.floor(begunMs / 1000) * 1000
  const lastMs = Math.max(...wanted.map(f => f.lastMs + f.shift), joined?.endMs ?? 0)
  const lengthS = Math.floor((lastMs - firstMs) / 1000) + 1
  if (lengthS > LONGEST_CLAIMED_S)
    throw new FileError(
      `From first to last it is ${Math.round(lengthS / 3600)} h: the longest run is ${LONGEST_CLAIMED_S / 3600} h.`,
      'Look at the unit of time, move the clocks of the files, or cut them.',
    )
  const senders = wanted.flatMap(f => f.scanned.places.map((place): Sender & { file: string } => ({
    name: f.scanned.places.length > 1 ? `${f.name} at ${place}` : f.name, place, how: 'file', file: f.file,
  })))
  const ofFiles = senders.length
  senders.push(...(joined?.senders ?? []).map(s => ({ ...s, file: '' })))
  if (senders.length > MOST_CLAIMED_PLACES)
    throw new FileError(`It names ${senders.length} places; at most ${MOST_CLAIMED_PLACES} are told apart.`, 'Take another column for the location, or none.')
  const averaged = wanted.some(f => f.scanned.averages > 0)
  let document = claimedDocument({ name: wish.name, senders, steps: [], lengthS, peakUsers: 0 })
  if (averaged) document.target.sources = averagesAsSources(wanted)
  const series = new ClaimedSeries(document)
  const places = claimOf(document).senders
  const frames = new ClaimedFrames(senders.length, firstMs, (sender, step) => series.of(places[sender]!.location, step))
  const merge = new RunMerge(wish.path, document, places.map(s => ({ machineId: '', name: s.name, location: s.location })))
  const users = usersBySecond(wanted, senders.slice(0, ofFiles), firstMs)
  const usersAt = (sender: number, second: number) =>
    users[sender]?.get(second) ?? joined?.usersAt(sender - ofFiles, firstMs, second) ?? 0
  for (const location of joined?.unended() ?? []) frames.leaveOpen(ofFiles + location)
  const kept = new KeptFailures(document.journeys[0]!.id, firstMs)
  const seen = new SeenRows(wanted.length > 1)
  let waiting = 0
  const flush = () => {
    merge.flush()
    waiting = 0
  }
  let written = 0
  const hand = (before: number, last = false) => {
    joined?.hand(frames, firstMs, ofFiles, before)
    // Also where nothing happened: somebody may have been there, and nothing more is to be expected of it.
    for (; written < before; written++)
      senders.forEach((_, sender) => {
        frames.present(sender, written)
      })
    const cut = frames.cut(before, usersAt, last)
    if (cut.length === 0) return
    const grown = series.grownDocument(document)
    if (grown) merge.grow((document = grown))
    for (const { sender, bytes } of cut) {
      const problem = merge.take(sender, bytes)
      if (problem !== undefined) throw new Error(problem)
      if (++waiting > FRAMES_AT_ONCE) flush()
    }
  }
  let rows = 0
  try {
    for (const f of wanted) {
      const senderOf = new Map(
        f.scanned.places.map(p => [p, senders.findIndex(s => s.file === f.file && s.place === p)]),
      )
      const averages: Average[] = []
      let newest = 0
      await readResults(f.path, f.reading, stemOf(f.name), {
        sample(sample) {
          if (seen.note(sample) && (sample.user !== '' || wish.unnamedDoubles === 'leaveOut')) return
          sample.beganMs += f.shift
          // The scan of the file has seen each of its places.
          const sender = senderOf.get(sample.place || f.place)!
          frames.add(sender, sample)
          if (!sample.ok) kept.note(sender, sample)
          if (++rows % 50_000 === 0) onRows(rows)
          const second = frames.secondOf(sample.beganMs)
          if (second <= newest) return
          newest = second
          // Of several files the later begin before the earlier end: what was written would be written anew.
          if (wanted.length === 1 || frames.open > MOST_OPEN) hand(newest - OPEN_S)
        },
        average: one => void averages.push({ ...one, atMs: one.atMs + f.shift }),
        interval({ tag, startS, histogram }, startAt) {
          const at = (startS > 1e8 ? 0 : startAt) + startS * 1000 + f.shift
          const buckets: [number, number][] = []
          const toUs = f.reading.durationUnit === 'ms' ? 1000 : 1
          histogram.forEach((index, times) => buckets.push([middleValueOf(index) * toUs, times]))
          // As above.
          frames.addBuckets(senderOf.get(f.place)!, frames.secondOf(at), tag || stemOf(f.name), buckets)
        },
        fault: () => {
          /* told by the scan */
        },
      })
      seen.endOfFile()
      if (averages.length > 0) keepAverages(wish.targetPath, f, averages)
    }
    hand(lengthS, true)
    merge.settle()
    const peakUsers = merge
      .seconds()
      .reduce((most, s) => Math.max(most, s.usersByLocation.reduce((a, b) => a + b, 0)), 0)
    document = withObjectives(asLongAs(document, lengthS, peakUsers), wish.objectives)
    merge.grow(document)
    merge.flush()
    const summary = summarise(merge, document, WITHOUT_TROUBLE)
    merge.close()
    kept.keep(wish.path)
    // A clock that begins with the test says nothing of when that was.
    const startAt = !joined && found.every(f => f.isOwnClock) ? now - lengthS * 1000 : firstMs
    return { document, startAt, endedAt: now, summary, files: found, doubles }
  }
  catch (error) {
    merge.close()
    throw error
  }
}

/**
 * By how much each file's clock is moved: as it was said, then so that the shared mark falls together: with that of the
 * run they join, where they do. A clock that begins with the test begins with that run.
 */
function clocksOf({ files, mark }: ScanWish, found: readonly ScannedFile[], joined: JoinedRun | undefined): number[] {
  const said = files.map((f, i) => f.shiftMs + (joined && found[i]!.isOwnClock ? joined.startAt : 0))
  if (mark === undefined) return said
  const at = found.map((f, i) =>
    f.sameAs === undefined ? (f.markMs ?? Number.NaN) + said[i]! : Number.POSITIVE_INFINITY)
  const lacking = found.find((f, i) => Number.isNaN(at[i]) && f.sameAs === undefined)
  if (lacking) throw new FileError(`“${mark}” is no step of ${lacking.name}: its clock cannot be found by it.`, 'Choose a step that is in all of them, or move the clock by hand.')
  const shared = joined ? joined.markMs(mark) : at[0]!
  if (shared === undefined) throw new FileError(`“${mark}” is no step of the run they join: no clock can be found by it.`, 'Choose a step that it has, too, or move the clocks by hand.')
  return said.map((shift, i) => (Number.isFinite(at[i]) ? shift + shared - at[i]! : shift))
}

/** Users of each sender by run second. */
function usersBySecond(
  files: readonly (ResultFile & { shift: number, presence: Pick<PresenceOf, 'at'> })[],
  senders: readonly (Sender & { file: string })[],
  startAt: number,
): Map<number, number>[] {
  return senders.map(({ file, place }) => {
    const of = present(files.find(f => f.file === file), 'the file a sender was made of')
    const by = Math.floor((of.shift - startAt) / 1000)
    return new Map([...of.presence.at(place)].map(([second, n]) => [second + by, n]))
  })
}

/** @throws FileError naming the first that cannot be read */
function withObjectives(document: RunDocument, texts: readonly string[]): RunDocument {
  const { plan, journeys } = document
  const names = journeys.flatMap(j => (j.kind === 'command' ? j.steps : []))
  const objectives = texts.map((text) => {
    const read = readObjective(text, { names, journeys, groups: plan.groups, codes: plan.locations.map(l => l.code) })
    if (read.ok) return read.objective.window === undefined ? { ...read.objective, window: 'whole' as const } : read.objective
    throw new FileError(`“${text}”: ${read.problem}`, 'Write it as in a plan, with the steps that were found.')
  })
  return { ...document, plan: { ...plan, objectives } }
}

const MEAN = 'mean as told'
const COUNT = 'requests as told'
const NO_COUNTERS = { last: {}, grown: {}, stamped: {}, hasRead: true }

/** Means of several stand beside the run, as what was told: percentiles cannot be made of them. */
function averagesAsSources(files: readonly { name: string, scanned: ScannedFile }[]): Source[] {
  return files
    .filter(f => f.scanned.averages > 0)
    .map(({ name }) => ({
      name,
      kind: 'sent',
      address: '',
      everyS: 1,
      series: [
        { name: `${MEAN}, ${name}`, of: 'mean', kind: 'gauge', by: 'step', unit: 'ms' },
        { name: `${COUNT}, ${name}`, of: 'count', kind: 'gauge', by: 'step', unit: '' },
      ],
    }))
}

function keepAverages(path: string, { name }: { name: string }, averages: readonly Average[]): void {
  const file = new TargetFile(path)
  try {
    const points = averages.flatMap(({ step, atMs, meanMs, count }) => [
      ...(Number.isFinite(meanMs) ? [{ series: 0, split: step, atMs, value: meanMs }] : []),
      { series: 1, split: step, atMs, value: count },
    ])
    const readAt = averages.reduce((last, a) => Math.max(last, a.atMs), 0)
    file.add(name, [`${MEAN}, ${name}`, `${COUNT}, ${name}`], points, { readAt, ageMs: 0, readings: averages.length, failures: 0 }, NO_COUNTERS)
  }
  finally {
    file.close()
  }
}

/** Failures with what was said of them, as exchanges of which nothing else is known. */
class KeptFailures {
  private readonly records = new Map<number, ExchangeRecord[]>()
  private readonly inSecond = new Map<string, number>()
  private count = 0
  private dropped = 0

  constructor(
    private readonly journeyId: string,
    private readonly startAt: number,
  ) {}

  note(sender: number, sample: ClaimedSample): void {
    const failure = failureOf(sample)
    const endedAtMs = sample.beganMs + (sample.durationMs ?? 0) - this.startAt
    const key = `${sender} ${Math.floor(endedAtMs / 1000)} ${failure}`
    const n = (this.inSecond.get(key) ?? 0) + 1
    this.inSecond.set(key, n)
    if (n > KEPT_IN_SECOND || this.count >= MOST_KEPT) {
      this.dropped++
      return
    }
    this.count++
    const of = this.records.get(sender) ?? []
    if (of.length === 0) this.records.set(sender, of)
    of.push(recordOf(sample, failure, this.journeyId, sample.beganMs - this.startAt, endedAtMs))
  }

  keep(path: string): void {
    const store = openRunFile(path)
    try {
      store.transaction(() => {
        for (const [sender, records] of this.records)
          keepExemplars(store, sender, {
            incarnation: 1,
            batch: 1,
            records,
            passes: [],
            dropped: sender === 0 ? this.dropped : 0,
          })
      })()
    }
    finally {
      store.close()
    }
  }
}
