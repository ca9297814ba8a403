/** Runs as those who watch and steer them handle them: begun, listed, read, marked, stopped. */
import type { CompareView, CoursesView, RunLine, RunView, TargetView, ThreeWayView, TrendView, WindowView } from '../../api/views'
import { AFTER_END_S, type SecondFigures } from '../../core/merge/second-figures'
import type { RunAbout } from '../../core/run/about'
import { readTags } from '../../core/values/tags'
import type { RunDocument } from '../../core/run/document'
import { runLengthMs } from '../../core/plan/length'
import type { Clock } from '../clock'
import { ControlError, notFound, notUnderWay } from '../errors'
import type { Money } from '../machines/money'
import type { RollCaller } from '../link/roll-caller'
import type { StageTimes } from '../machines/stage-times'
import type { ExemplarsWanted, FoundExemplars } from '../ingest/exemplars'
import type { Ingest } from '../ingest/ingest'
import type { FoundPasses, PassesWanted } from '../ingest/passes'
import type { AskedRun } from '../ingest/worker-messages'
import type { MachineStore } from '../store/machines'
import type { RunStore, StoredRun } from '../store/runs'
import { gatheringView } from './gathering-view'
import { machineLine } from '../machines/machine-lines'
import { holdKept } from './keeping'
import { runLine } from './run-lines'
import { generatorsOf } from './active-run'
import type { Conductor } from './conductor'
import { comparedCsv } from '../../core/formats/compared-table'
import { harOf } from '../../core/formats/har-of-exchanges'
import { figuresCsv } from '../../core/formats/figures-table'
import { junitOf } from '../../core/formats/junit'
import { openMetricsText, type MetricFamily } from '../../core/formats/open-metrics'
import { runMetrics } from '../../core/formats/run-metrics'
import { RELEASE } from '../../protocol/version'
import type { FailureReport } from '../../core/result/failures'
import type { MachineCourse, MachineRecord } from '../../core/run/machine-course'
import { binsFor, type Bins } from '../../core/result/course'
import type { Distribution } from '../../core/result/distribution'
import { stretchAtS, wholeStretches, type Seconds } from '../../core/run/folded'
import { asksMachines, DIMENSIONS, type Dimension, type SliceOver, type Slices, type SliceWish } from '../../core/result/slices'
import { staffProblem, type StaffWish } from '../../core/result/staff'
import { targetLines } from '../target/judged-values'
import { targetView, type TargetWish } from '../target/target-view'
import { compared, type CompareWish } from './comparing'
import { knownMeasures, type MeasureRun } from './known-measures'
import { trendView } from './trends'
import { threeWay } from '../target/three-way-view'
import { exportedSeconds, type SecondsFile } from './exported-seconds'
import { groupsByPlan, plannedPerSecond } from '../../core/result/summary'
import { defined } from '../../core/values/defined'

/** Exchanges in one file, at most. */
export const MOST_IN_HAR = 2000
/** Points of a course, at most: more than any screen is wide. */
const MOST_COURSE_BINS = 10_000

export interface CoursesWish {
  fromS: number
  toS: number
  /** Bins at most; of the lengths in which sums are kept. */
  most: number
  /** Length of a bin, s; left out: the shortest of which there are not more than that. */
  binS?: number
  staffs: StaffWish[]
}

/** Codes of locations and names of machines that count; none of either: all. */
export interface Places {
  locations: readonly string[]
  machines: readonly string[]
}

/** What is looked for, at which places. */
type Placed<Wanted> = Omit<Wanted, 'generators'> & { places: Places }

export interface RunsOptions {
  clock: Clock
  store: RunStore
  machines: MachineStore
  conductor: Pick<Conductor, 'takeUp' | 'stop' | 'abort' | 'goWith' | 'silentOf' | 'brokenSoFarOf'>
  ingest: Pick<Ingest, 'seconds' | 'window' | 'slices' | 'distributions' | 'courses' | 'failures' | 'requestCounts' | 'measures' | 'machineRecords' | 'machineCourse' | 'findExemplars' | 'findPasses' | 'everySecond' | 'leftovers' | 'readLeftover' | 'histogramLog'>
  money: Money
  rollCaller: Pick<RollCaller, 'judge'>
  stageTimes: StageTimes
  /** @throws ControlError when nothing new may begin: no room, or a key that is not here */
  hold: () => void
  runFile: (runId: number) => string
  targetFile: (runId: number) => string
  /** Whether a run's target is still read. */
  isTargetRead: (runId: number) => boolean
  onChange: (runId: number) => void
}

/** Runs shown in lists. */
const MOST_RUNS = 200
/** Later than any second of a run. */
const LONGEST_S = Number.MAX_SAFE_INTEGER

export class Runs {
  private readonly measures: MeasureRun

  constructor(private readonly options: RunsOptions) {
    this.measures = knownMeasures((run, wanted) => options.ingest.measures(run, wanted))
  }

  /** Keeps a run and begins to lead it. @param from what it is made of, in words @returns its id */
  begin(planId: string, document: RunDocument, from: string): number {
    const { store, clock, conductor, hold, onChange } = this.options
    hold()
    const id = store.create(planId, document, clock.now())
    store.remark(id, 'queued', 'created', from, clock.now())
    conductor.takeUp(id)
    onChange(id)
    return id
  }

  /** The latest, calibrations among them. */
  latest(): StoredRun[] {
    return this.options.store.latest(MOST_RUNS)
  }

  /** What the latest are called, and what they were foretold to cost. */
  names(): Map<number, { plan: string, forecast?: number }> {
    return new Map(
      this.latest().map(({ id, document: { plan, forecast } }) => [
        id,
        { plan: plan.name, ...(forecast === undefined ? {} : { forecast }) },
      ]),
    )
  }

  /** Runs of plans; calibrations have a screen of their own. @param before the number of a run: older ones only */
  lines(before = Number.MAX_SAFE_INTEGER): RunLine[] {
    return this.options.store.ofPlansBefore(before, MOST_RUNS).map(r => this.line(r))
  }

  linesOf(which: (run: StoredRun) => boolean): RunLine[] {
    return this.latest()
      .filter(which)
      .map(r => this.line(r))
  }

  private line(run: StoredRun): RunLine {
    const { store, money, clock } = this.options
    const cost = run.opened?.cost ?? money.ofRun(run.id, clock.now())
    return runLine(run, store.changes(run.id), cost, store.baselineOf(run.planId))
  }

  lastOf(planId: string) {
    const last = this.latest().find(r => r.planId === planId)
    return last && { ...this.line(last), answer: last.summary?.answer }
  }

  view(id: number): RunView {
    const { clock, store, machines, money, rollCaller, stageTimes } = this.options
    const stored = this.stored(id)
    const { document, summary } = stored
    const changes = store.changes(id)
    const now = clock.now()
    const machineChanges = machines.changesOfRun(id)
    const { opened } = stored
    const lines
      = opened?.machines
        ?? machines
          .everOfRun(id)
          .map(({ machine, stay }) => machineLine(machine, machineChanges.get(machine.id) ?? [], now, money, stay))
    const crew = machines.ofRun(id)
    const silent = this.options.conductor.silentOf(id)
    const { called, findings } = rollCaller.judge(crew, id)
    return {
      line: this.line(stored),
      document,
      changes,
      machines: lines,
      now,
      gathering: gatheringView(stored, crew, store, stageTimes, now),
      cost: lines.reduce((sum, m) => sum + m.cost, 0),
      rollCall: opened?.rollCall ?? { machines: called, findings },
      generators: opened?.generators ?? generatorsOf(document, crew).map(({ machineId, name, location }, g) => ({
        machineId,
        name,
        location: document.plan.locations[location]!.code,
        ...defined({ silentSince: silent.get(g) }),
      })),
      lengthS: Math.ceil(runLengthMs(document) / 1000),
      planned: [...plannedPerSecond(document)],
      byPlan: {
        groups: groupsByPlan(document).map(s => s.g),
        planned: [
          ...plannedPerSecond(
            document,
            groupsByPlan(document).map(s => s.group),
          ),
        ],
      },
      summary,
      brokenSoFar: this.options.conductor.brokenSoFarOf(id),
      unloaded: stored.unloaded,
      notes: stored.about.notes,
      kept: stored.kept,
      exchangesClearedAt: stored.exchangesClearedAt,
      clearedAt: stored.clearedAt,
      foldedAt: stored.foldedAt,
    }
  }

  /** The window of whole stretches around one, where machines of a folded run are asked for and that is more. */
  private wider(id: number, { fromS, toS }: Seconds, byMachine: boolean): Seconds | undefined {
    const endS = this.endS(id)
    if (!byMachine || this.whole(id).foldedAt === undefined || fromS >= endS) return undefined
    const whole = wholeStretches({ fromS, toS }, endS)
    return whole.fromS === fromS && whole.toS === Math.min(toS, endS) ? undefined : whole
  }

  /** @throws ControlError where more would have to be told than is asked for */
  private holdWhole(id: number, window: Seconds, byMachine: boolean): void {
    const wider = this.wider(id, window, byMachine)
    if (!wider) return
    throw folded(id, `Ask for seconds ${wider.fromS} to ${wider.toS}, or not by machine.`)
  }

  /** Bins in which everything that is asked for is told: of machines of a folded run, whole stretches. */
  private binsOf(id: number, bins: Bins, staffs: readonly StaffWish[]): Bins {
    const byMachine = staffs.some(({ split, only }) => asksMachines({ rows: split === 'machine' ? [split] : [], only }))
    if (!byMachine || this.whole(id).foldedAt === undefined) return bins
    const { fromS, toS } = this.wider(id, bins, true) ?? bins
    const stretchS = stretchAtS(fromS, this.endS(id))
    return { fromS, toS, binS: Math.ceil(bins.binS / stretchS) * stretchS }
  }

  /** Nothing is later, and looking there would take as long as one says: run second. */
  private endS(id: number): number {
    const { document, summary } = this.whole(id)
    return summary?.lengthS ?? Math.ceil(runLengthMs(document) / 1000) + AFTER_END_S
  }

  /** What questions about it are put to. @throws ControlError when what it measured was given back */
  private asked(id: number): AskedRun {
    const { document, opened } = this.whole(id)
    const codes = document.plan.locations.map(l => l.code)
    const machines
      = opened?.generators.map(({ name, location }) => ({ name, location: codes.indexOf(location) }))
        ?? generatorsOf(document, this.options.machines.ofRun(id)).map(({ name, location }) => ({ name, location }))
    return { path: this.options.runFile(id), document, machines }
  }

  /** With everything that it measured. @throws ControlError when that was given back */
  whole(id: number): StoredRun {
    const stored = this.stored(id)
    holdKept(stored)
    return stored
  }

  /**
   * Figures of run seconds `fromS` (inclusive) to `toS` (exclusive); left out: from the first, to the last.
   *
   * @param most at most this many, each the slowest of its stretch
   */
  seconds(id: number, fromS = 0, toS = LONGEST_S, most?: number): Promise<SecondFigures[]> {
    const { startAt } = this.whole(id)
    holdWindow(fromS, toS)
    if (startAt === undefined) return Promise.resolve([])
    const { path, document, machines } = this.asked(id)
    // How other programs were is not known.
    return this.options.ingest.seconds(path, { fromS, toS, most }, document.claimed ? 0 : machines.length)
  }

  window(id: number, fromS: number, toS: number): Promise<WindowView> {
    const { document, summary } = this.whole(id)
    holdWindow(fromS, toS)
    return this.options.ingest.window(this.options.runFile(id), document, fromS, toS, summary?.pathMs ?? {})
  }

  /** Figures of a window in rows as wished. */
  async slices(id: number, fromS: number, toS: number, wish: SliceWish): Promise<Slices> {
    const asked = this.asked(id)
    holdWindow(fromS, toS)
    const over = this.wider(id, { fromS, toS }, asksMachines(wish))
    const slices = await this.options.ingest.slices(asked, over?.fromS ?? fromS, over?.toS ?? toS, wish)
    return over ? { ...slices, over } : slices
  }

  /** How response times are spread, of slices each over a window of its own. */
  distributions(id: number, of: readonly SliceOver[], limitsMs: readonly number[]): Promise<Distribution[]> {
    const asked = this.asked(id)
    for (const { fromS, toS, only } of of) {
      holdWindow(fromS, toS)
      this.holdWhole(id, { fromS, toS }, asksMachines({ only }))
    }
    return this.options.ingest.distributions(asked, of, limitsMs)
  }

  /** What staffs draw over a window, in as many bins as are wished at most, or in bins of a length of their own. */
  async courses(id: number, { fromS, toS, most, binS, staffs }: CoursesWish): Promise<CoursesView> {
    const asked = this.asked(id)
    holdWindow(fromS, toS)
    const problem = staffs.map(staffProblem).find(p => p !== undefined)
    if (problem) throw new ControlError('staff', 400, problem, 'Ask for what there is of this measure.')
    const endS = Math.max(fromS, Math.min(toS, this.endS(id)))
    const bins = this.binsOf(id, binS === undefined ? binsFor(fromS, endS, most) : { fromS, toS: endS, binS }, staffs)
    holdBins(bins)
    return { ...bins, courses: await this.options.ingest.courses(asked, staffs, bins) }
  }

  /** How a window failed, where and when. */
  failures(id: number, fromS: number, toS: number, only: SliceWish['only']): Promise<FailureReport> {
    holdWindow(fromS, toS)
    // Their course and their first and last second are not made of stretches.
    if (asksMachines({ only }) && this.whole(id).foldedAt !== undefined) throw folded(id, 'Ask of all machines, or of a location.')
    return this.options.ingest.failures(this.asked(id), fromS, Math.min(toS, this.endS(id)), only)
  }

  /** What the target said of itself. @param wish `sinceS` left out: all of it */
  targetAccount(id: number, wish: TargetWish): Promise<TargetView> {
    const { targetFile, isTargetRead, clock } = this.options
    return targetView(this.whole(id), targetFile(id), wish, isTargetRead(id), clock.now())
  }

  /** Step by step: started, answered, and counted by the target. */
  async threeWay(id: number): Promise<ThreeWayView> {
    const { targetFile, store, isTargetRead, ingest } = this.options
    return threeWay(this.whole(id), targetFile(id), store.changes(id), isTargetRead(id), () =>
      ingest.requestCounts(this.asked(id)))
  }

  /** Two to six runs beside each other. @throws ControlError */
  compare(wish: CompareWish): Promise<CompareView> {
    const { store, targetFile } = this.options
    return compared(wish, {
      run: id => this.whole(id),
      ofPlan: planId => store.latest(MOST_RUNS).filter(r => r.planId === planId),
      line: run => this.line(run),
      asked: id => this.asked(id),
      measures: this.measures,
      targetLines: ({ id, document, startAt }) => targetLines(document, targetFile(id), startAt ?? 0),
    })
  }

  async comparedCsv(wish: CompareWish): Promise<string> {
    return comparedCsv(await this.compare(wish))
  }

  /** A plan over its runs that were judged, the latest of them. @throws ControlError */
  async trend(planId: string): Promise<TrendView> {
    const judged = this.options.store
      .latest(MOST_RUNS)
      .filter(r => r.planId === planId && r.summary !== undefined && !r.document.calibration)
      .reverse()
    if (judged.length === 0) throw notFound(`judged run of plan ${planId}`)
    return trendView(judged, {
      line: run => this.line(run),
      asked: id => this.asked(id),
      measures: this.measures,
    })
  }

  machineRecords(id: number): Promise<MachineRecord[]> {
    const { path, machines } = this.asked(id)
    return this.options.ingest.machineRecords(path, machines.length)
  }

  machineCourse(id: number, generator: number, fromS: number, toS: number): Promise<MachineCourse> {
    const { path, machines } = this.asked(id)
    holdWindow(fromS, toS)
    if (!machines[generator]) throw notFound(`generator ${generator} of this run`)
    return this.options.ingest.machineCourse(path, generator, fromS, Math.min(toS, this.endS(id)))
  }

  exemplars(id: number, { places, ...wanted }: Placed<ExemplarsWanted>): Promise<FoundExemplars> {
    const run = this.asked(id)
    return this.options.ingest.findExemplars(run.path, { ...wanted, ...generatorsAt(run, places) })
  }

  passes(id: number, { places, ...wanted }: Placed<PassesWanted>): Promise<FoundPasses> {
    const run = this.asked(id)
    return this.options.ingest.findPasses(run.path, { ...wanted, ...generatorsAt(run, places) })
  }

  /** Exchanges that were kept, as a HAR file. */
  async har(id: number, wanted: Placed<ExemplarsWanted>): Promise<string> {
    const { startAt = 0 } = this.whole(id)
    const { machines } = this.asked(id)
    const { records, total } = await this.exemplars(id, wanted)
    const comment = total > records.length ? `The slowest ${records.length} of ${total} that were kept.` : ''
    const from = records.map(r => ({ ...r, machine: machines[r.generator]?.name ?? '' }))
    return JSON.stringify(harOf(from, { startAt, version: RELEASE, comment }), undefined, 1)
  }

  /** The figures of a window in rows, as CSV; left out: of the whole run. */
  async figuresCsv(id: number, by: string, fromS = 0, toS = this.endS(id)): Promise<string> {
    const rows = dimensionsOf(by)
    this.holdWhole(id, { fromS, toS }, asksMachines({ rows }))
    return figuresCsv(await this.slices(id, fromS, toS, { rows }), rows)
  }

  /** All figures as OpenMetrics text: of a run under load, as far as they have come. */
  async metrics(id: number): Promise<string> {
    return openMetricsText(await this.families(id))
  }

  /** The same as families of metrics. */
  async families(id: number): Promise<MetricFamily[]> {
    const { document, summary, state, about: { build } } = this.whole(id)
    const [slices, seconds] = await Promise.all([
      this.slices(id, 0, this.endS(id), { rows: ['step', 'location'] }),
      summary ? [] : this.seconds(id),
    ])
    const newest = seconds.findLast(s => s.final)
    return runMetrics({
      id,
      build,
      state,
      document,
      slices,
      ...(newest?.usersByCell ? { users: usersByCell(document, newest.usersByCell) } : {}),
      ...(summary ? { answer: summary.answer } : {}),
    })
  }

  /** What the objectives say, as JUnit XML. @throws ControlError while there is no answer yet */
  junit(id: number): string {
    const { document, summary, startAt = 0 } = this.stored(id)
    if (!summary)
      throw new ControlError('not-judged', 409, `Run ${id} has no answer yet.`, 'Wait until it has settled.')
    const { question, planName } = this.view(id).line
    return junitOf({
      question,
      planName,
      answer: summary.answer,
      journeys: document.journeys,
      startedAt: new Date(startAt).toISOString(),
      lengthS: summary.lengthS,
    })
  }

  /** Every second of a run by one dimension, piece by piece, so that hours of it fit through little memory. */
  everySecond(id: number, as: SecondsFile): AsyncIterable<string> {
    const run = this.asked(id)
    this.holdWhole(id, { fromS: 0, toS: 1 }, asksMachines({ rows: [as.by] }))
    const ask = (from: number, to: number, by: Dimension) =>
      this.options.ingest.everySecond(run, from, to, { rows: [by] })
    return exportedSeconds(ask, this.endS(id), as)
  }

  /** What commands left on their generators. */
  leftovers(id: number) {
    this.whole(id)
    return this.options.ingest.leftovers(this.options.runFile(id))
  }

  async leftover(id: number, generator: number, group: string, name: string): Promise<Uint8Array> {
    this.whole(id)
    const content = await this.options.ingest.readLeftover(this.options.runFile(id), generator, group, name)
    if (!content) throw notFound(`file ${name} of this run`)
    return content
  }

  histogramLog(id: number): Promise<string> {
    const { document, startAt, createdAt } = this.whole(id)
    return this.options.ingest.histogramLog(this.options.runFile(id), document, startAt ?? createdAt)
  }

  stop(id: number, reason = 'stopped by hand'): void {
    this.stored(id)
    if (!this.options.conductor.stop(id, reason)) throw notUnderWay(id)
  }

  abort(id: number, reason = 'aborted by hand'): void {
    this.stored(id)
    if (!this.options.conductor.abort(id, reason)) throw notUnderWay(id)
  }

  /** Goes with the machines a gathering run has. */
  goWith(id: number): void {
    this.stored(id)
    const why = this.options.conductor.goWith(id)
    if (why) throw new ControlError('cannot-go', 409, why, 'Wait for machines, or stop the run.')
  }

  /** Later runs of its plan are held against it from now on, or not any more. */
  setBaseline(id: number, isBaseline: boolean): void {
    const { store, onChange } = this.options
    const { planId, summary, document } = this.whole(id)
    if (document.calibration) throw new ControlError('compare', 400, 'A calibration is held against nothing.', 'Choose a run of a plan.')
    if (isBaseline && !summary)
      throw new ControlError('not-judged', 409, `Run ${id} has no answer yet.`, 'Wait until it has settled.')
    const before = store.baselineOf(planId)
    if (!isBaseline && before !== id) return
    store.setBaseline(planId, isBaseline ? id : undefined)
    for (const changed of new Set([id, ...(before === undefined ? [] : [before])])) onChange(changed)
  }

  /** @param about a build that is left out stays as it was */
  describe(id: number, about: Omit<RunAbout, 'build'> & Partial<RunAbout>): void {
    const { name, tags, build = this.stored(id).about.build } = about
    const tidy = { name: name.trim(), tags: readTags(tags.join(',')), build: build.trim() }
    this.options.store.setAbout(id, { ...about, ...tidy })
    this.options.onChange(id)
  }

  /** Pins a note to this moment of a run. */
  mark(id: number, text: string): void {
    const { store, clock } = this.options
    store.remark(id, this.stored(id).state, 'mark', text, clock.now())
  }

  /** @throws ControlError when there is no such run */
  stored(id: number): StoredRun {
    const stored = Number.isInteger(id) ? this.options.store.run(id) : undefined
    if (!stored) throw notFound(`run ${id}`)
    return stored
  }
}

/** @throws ControlError when they are not one or two different things */
function dimensionsOf(text: string): Dimension[] {
  const rows = text.split(',').map(d => DIMENSIONS.find(known => known === d.trim()))
  const known = rows.filter(d => d !== undefined)
  if (known.length === rows.length && rows.length <= 2 && new Set(rows).size === rows.length) return known
  throw new ControlError(
    'address',
    400,
    `Figures are not told apart by “${text.slice(0, 60)}”.`,
    `Name one or two of ${DIMENSIONS.join(', ')}, with a comma between.`,
  )
}

/** The groups of one location stand after those of the one before. */
function usersByCell({ plan: { groups, locations } }: RunDocument, cells: readonly number[]) {
  return locations.flatMap(({ code }, l) =>
    groups.map(({ letter }, g) => ({ group: letter, location: code, users: cells[l * groups.length + g] ?? 0 })))
}

/** Numbers of the generators of these places; of none where no generator is there. */
function generatorsAt({ document, machines }: AskedRun, places: Places): { generators?: number[] } {
  if (places.locations.length === 0 && places.machines.length === 0) return {}
  const isThere = ({ name, location }: AskedRun['machines'][number]) =>
    (places.locations.length === 0 || places.locations.includes(document.plan.locations[location]!.code)) &&
    (places.machines.length === 0 || places.machines.includes(name))
  return { generators: [...machines.entries()].flatMap(([number, machine]) => (isThere(machine) ? [number] : [])) }
}

/** @throws ControlError when there are more bins than anybody could look at */
function holdBins({ fromS, toS, binS }: Bins): void {
  if ((toS - fromS) / binS <= MOST_COURSE_BINS) return
  throw new ControlError(
    'window',
    400,
    `${fromS} to ${toS} s are more than ${MOST_COURSE_BINS} bins of ${binS} s.`,
    'Ask for a shorter window, or for longer bins.',
  )
}

function folded(id: number, remedy: string): ControlError {
  return new ControlError(
    'folded',
    409,
    `What the generators of run ${id} sent was folded: machines are told apart in whole stretches.`,
    remedy,
  )
}

/** @throws ControlError when it is no window of whole seconds */
function holdWindow(fromS: number, toS: number): void {
  if (Number.isInteger(fromS) && Number.isInteger(toS) && fromS >= 0 && toS > fromS) return
  throw new ControlError(
    'window',
    400,
    `${fromS} to ${toS} s is not a window of whole seconds.`,
    'Give from and to in whole run seconds, from before to.',
  )
}
