/** What the server tells the app: one type per answer. */
import type { ErrorCode } from './errors'
import type { Role } from './roles'
import type { Recovery, GaugeStep } from '../core/target/recovery'
import type { CostPart } from '../core/target/cost'
import type { SeriesKind, StandsFor } from '../core/target/source'
import type { SourceClock } from '../core/target/source-clock'
import type { CalibrationBatch } from '../core/capacity/batch'
import type { Capacity } from '../core/capacity/capacity'
import type { CalibrationEvidence } from '../core/capacity/calibration'
import type { LocationSizing } from '../core/fleet/sizing'
import type { Price } from '../core/offers/cost'
import type { CalledMachine, RollCallFinding } from '../core/fleet/roll-call'
import type { Host, HostTry, Site } from '../core/fleet/site'
import type { ExchangeRecord } from '../core/journey/exchange-record'
import type { PassRecord } from '../core/journey/pass-record'
import type { Feed } from '../core/journey/feed'
import type { Journey } from '../core/journey/journey'
import type { JourneyProblem } from '../core/journey/problems'
import type { MeasureKind } from '../core/journey/measures'
import type { Target } from '../core/journey/target'
import type { FailureKind } from '../core/journey/failure-kinds'
import type { Figures } from '../core/merge/figures'
import type { SecondFigures } from '../core/merge/second-figures'
import type { Evidence } from '../core/objectives/evidence'
import type { Answer } from '../core/objectives/judge'
import type { LoadThere } from '../core/objectives/load-there'
import type { Client } from '../core/client/client'
import type { NetworkProfile } from '../core/network/profile'
import type { NetworkFigures } from '../core/merge/network-figures'
import type { Change } from '../core/checks/differences'
import type { Plan } from '../core/plan/document'
import type { RegionOffer } from '../core/offers/machine-type'
import type { ComparedRuns } from '../core/compare/compared'
import type { TrendLine } from '../core/compare/trend'
import type { Tells } from '../core/dispatch/run-event'
import type { SharedThing } from '../core/report/shared'
import type { ReportWish } from '../core/report/wish'
import type { RunDocument } from '../core/run/document'
import type { FailureReport } from '../core/result/failures'
import type { Bins, Course } from '../core/result/course'
import type { Distribution } from '../core/result/distribution'
import type { UnloadedTime } from '../core/result/unloaded'
import type { Slices } from '../core/result/slices'
import type { BrokenStretch } from '../core/result/stretches'
import type { StepAccount } from '../core/result/three-way'
import type { RunSummary } from '../core/result/summary'
import type { Problem } from '../core/checks/problem'
import type { RunChange, RunState } from '../core/run/life'
import type { MachineState } from '../core/run/machine-life'
import type { Soundness } from '../core/soundness/verdict'

export type { MachineCourse, MachineRecord } from '../core/run/machine-course'
export type { Distribution, FailureKind, FailureReport, Figures }
export type { MachineState, MeasureKind, RunState, SecondFigures, Slices }

/** What staffs draw, in bins from `fromS` on; in the order of the question. */
export interface CoursesView extends Bins {
  courses: Course[]
}

/** What a source that was tried has to say. */
export interface TriedSource {
  /** Up to the one that failed. */
  steps: {
    step: 'approval' | 'connection' | 'answer' | 'page'
    isRight: boolean
    sentence?: string
    remedy?: string
  }[]
  tookMs?: number
  bytes?: number
  /** How far its clock is ahead of ours; only where its answers carry a date. */
  clock?: SourceClock
  /** Metrics of a page of metrics, or those a metrics server knows; none of JSON. */
  offered: {
    of: string
    type: string
    unit?: string
    help?: string
    /** Where it is one sample alone. */
    value?: number
    /** Number of samples; left out: it was not counted. */
    lines?: number
    labels: Record<string, string[]>
  }[]
  /** What a command wrote, its beginning. */
  text?: string
  /** Of the series that are chosen: what was read. */
  found: {
    name: string
    lines: { split: string, value: number, ageMs: number }[]
    /** Of a query: names of the labels its lines have. */
    labels?: string[]
    /** Of a query: how it was in the last minutes, all lines together, the oldest first. */
    course?: { agoS: number, value: number }[]
  }[]
}

/** Token of a source that figures are sent to; itself it is shown once. Moments in ms since 1970. */
export interface SourceTokenLine {
  /** Name of the source. */
  source: string
  createdAt: number
  usedAt?: number
}

/** What a target said of itself beside a run. Run times in s; before the load they are negative. */
export interface TargetView {
  /** Its sources are still read. */
  isReading: boolean
  sources: {
    name: string
    everyS: number
    readings: number
    failures: number
    /** Of the newest value, now. `isStale`: too old to be gone by. */
    ageMs?: number
    isStale?: boolean
    trouble?: string
    offsetMs?: number
    offsetUncertaintyMs?: number
  }[]
  series: {
    name: string
    source: string
    kind: SeriesKind
    unit?: string
    standsFor?: StandsFor
    limit?: number
    /** What its lines are told apart by. */
    by?: string
    everyS: number
    /** Counters: per second. null: nothing was read between. */
    lines: { split: string, atS: number[], values: (number | null)[], recovery?: Recovery }[]
  }[]
  /** Changes of what stands for replicas. */
  steps: (GaugeStep & { series: string, split: string })[]
  /** What the run cost the target itself, as far as its prices are known; once the load is over. */
  cost?: CostPart[]
}

/** What was started, answered and counted by the target, step by step. */
export interface ThreeWayView {
  /** Its target is still read: what it counted last may come yet. */
  isReading: boolean
  /** Why there is none, in words. */
  missing?: string
  /** Series that was counted by. */
  series?: string
  steps: StepAccount[]
}

/** Objectives of a plan over its runs that were judged. */
export interface TrendView {
  planName: string
  /** The oldest first. */
  runs: RunLine[]
  /** Of objectives, as they were judged. */
  lines: TrendLine[]
  /** p95 of each step at the highest level of the newest run; left out: it held none. */
  steps?: { users: number, lines: TrendLine[] }
}

/** How word of runs goes out, and what was sent. */
export interface SendingView {
  /** Left out: none is known. */
  mail?: {
    host: string
    port: number
    security: 'tls' | 'starttls' | 'none'
    user?: string
    from: string
    hasPassword: boolean
  }
  hooks: { id: number, name: string, address: string, tells: Tells[], createdAt: number }[]
  /** Where figures of runs are sent while they load; left out: nowhere. */
  figures?: {
    address: string
    everyS: number
    hasSecret: boolean
    sentAt?: number
    /** Why the last was not taken. */
    trouble?: string
  }
  /** The newest first. Moments in ms since 1970. */
  dispatches: {
    id: number
    kind: 'mail' | 'hook'
    recipient: string
    runId?: number
    about: string
    writtenAt: number
    attempts: number
    /** When it is tried next; of neither this nor `sentAt`: it was given up. */
    nextAt?: number
    sentAt?: number
    trouble?: string
  }[]
}

/** A program elsewhere that may tell of a run: its token is shown once. */
export interface OpenedStream {
  place: string
  token: string
}

/** Programs elsewhere that tell of a run. Moments in ms since 1970. */
export type StreamsView = {
  place: string
  createdAt: number
  heardAt?: number
  /** Lines that were taken, and that could not be read. */
  taken: number
  faulty: number
  /** It has said its last word. */
  endedAt?: number
}[]

/** A link by which somebody without an account sees one thing. Moments in ms since 1970. */
export interface SharedLinkLine {
  id: number
  opens: SharedThing
  /** As the trail names them. */
  madeBy: string
  createdAt: number
  endsAt: number
  /** It was taken back. */
  endedAt?: number
  /** How often it was opened. */
  opened: number
  openedAt?: number
}

/** What a link opens, for anyone who comes with it. */
export interface SharedView {
  kind: SharedThing['kind']
  runs: { id: number, name: string, question: string }[]
  /** ms since 1970. */
  endsAt: number
  /** All of it is over and has an answer: there is a report. */
  hasAnswer: boolean
  hasExchanges: boolean
}

/** What the report of a run is to show, and what else is kept by a name. */
export interface ReportView {
  wish: ReportWish
  /** Somebody chose it for this run; else it is as usual. */
  isOwn: boolean
  /** By their names; one of them may be usual. */
  templates: { name: string, isUsual: boolean, wish: ReportWish }[]
}

/** What is wrong, and what to do about it. Every failed request answers with one. */
export interface ApiProblem {
  code: ErrorCode
  sentence: string
  remedy: string
  /** What in the body of the request cannot be taken, each where it stands; left out: nothing in particular. */
  faults?: BodyFault[]
}

/** `at`: names on the way to it, with dots between, as in `profile.name`. `sentence`: what is wrong there. */
export interface BodyFault {
  at: string
  sentence: string
}

/** A run, should it be made again: what has changed since, and what is in the way of exactly its own document. */
export interface AgainView {
  planVersionThen: number
  /** Undefined: the plan does not exist any more. */
  planVersionNow?: number
  differences: string[]
  exactlyInTheWay: string[]
}

/** Shown on every screen. Money in €, moments in ms since 1970 on the controller's clock. */
export interface MeterView {
  now: number
  machinesOut: number
  /** Machines asked for by runs that are not over, in hand or not. */
  machinesWanted: number
  perHour: number
  today: number
  budget: number
  nextLease: { location: string, name: string, endsAt: number } | undefined
  /** Machines that carry load now. */
  loading: number
  /** Machines whose release nobody has confirmed. */
  unconfirmed: number
  run: { id: number, state: RunState, startAt: number | undefined } | undefined
  /** Providers that do not answer. */
  silent: { provider: string, sentence: string }[]
  strays: number
  /** What keeps Vornak itself from working as it should: a word, and what to do. */
  troubles: { word: string, sentence: string }[]
  counts: { waiting: number, journeys: number, plans: number, runs: number }
  /** 99th percentile of the controller's own event-loop delay over the last 10 s, ms. */
  loopDelayP99Ms: number
}

/** One run as a line of a list. */
export interface RunLine {
  id: number
  planId: string
  planName: string
  question: string
  target: string
  state: RunState
  createdAt: number
  startAt: number | undefined
  endedAt: number | undefined
  peakUsers: number
  verdict: Answer['verdict'] | undefined
  /** The answer, or why there is none. */
  sentence: string
  soundness: Soundness | undefined
  /** Of its machines so far, in the currency of the house. */
  cost: number
  /** Its own; empty: it is called by its question. */
  name: string
  tags: string[]
  pinned: boolean
  /** Which build of the target was under load; empty: nobody said. */
  build: string
  /** It calibrates, and answers no question. */
  calibrates: boolean
  /** Other programs measured it. */
  isClaimed: boolean
  /** Opened from an archive: its number where it was led. */
  openedFrom?: number
  /** Later runs of its plan are held against it. */
  isBaseline: boolean
  /** The run its plan's later runs are held against, where that is another, earlier one. */
  baseline?: number
}

/** Two to six runs beside each other, as lines of the list. */
export interface CompareView extends ComparedRuns {
  runs: (RunLine & {
    lengthS: number
    /** Levels that were judged, as they were held, in the order of time. */
    holds: { users: number, fromS: number, toS: number }[]
  })[]
}

export interface BoardView {
  runs: RunLine[]
  /** Machines out, with what they cost so far. */
  out: MachineLine[]
  plans: PlanLine[]
}

export interface PlanLine {
  id: string
  name: string
  question: string
  tags: string[]
  version: number
  savedAt: number
  archived: boolean
  target: string
  peakUsers: number
  groups: number
  locations: number
  lastRun: RunLine | undefined
  problemsInTheWay: number
}

/** What a location would take and cost. */
export interface LocationSize extends LocationSizing {
  quotaMost: number
  quotaUsed: number
}

/** Checked anew with every change. */
export interface PlanCheck {
  problems: Problem[]
  sizes: LocationSize[]
  perHour: number
  /** Of the whole run, with the usual gathering. */
  forecast: number
  /** Usual time to gather, s. */
  gatherS: number
  lengthS: number
}

export interface PlanView {
  id: string
  version: number
  savedAt: number
  plan: Plan
  archived: boolean
  /** The version that is present: an older one may be shown. */
  latest: number
  history: { version: number, savedAt: number, name: string }[]
  target: Target | undefined
  targets: Target[]
  journeys: Journey[]
  networks: NetworkProfile[]
  clients: Client[]
  offers: Record<string, RegionOffer[] | undefined>
  check: PlanCheck
  lastRun: (RunLine & { answer: Answer | undefined }) | undefined
}

/**
 * The library of network profiles. `paths`: round trip of the real path per location, as the last roll call saw it, ms.
 */
export interface NetworksView {
  profiles: { profile: NetworkProfile, preset: boolean, plans: string[] }[]
  paths: Record<string, number>
}

/** The library of clients. */
export interface ClientsView {
  clients: { client: Client, preset: boolean, plans: string[] }[]
}

/** What a version changed against another, and both as text. */
export interface PlanChangesView {
  from: number
  to: number
  changes: Change[]
  before: string
  after: string
}

export interface MachineLine {
  id: string
  /** Run it works for, or did; undefined: it waits. */
  runId: number | undefined
  name: string
  location: string
  provider: string
  region: string
  type: string
  state: MachineState
  askedAt: number
  allocatedAt: number | undefined
  goneAt: number | undefined
  leaseEndsAt: number
  perHour: number
  /** So far, €. */
  cost: number
  changes: { at: number, to: MachineState, event: string, reason: string }[]
  facts: { hostname: string, cores: number, memoryBytes: number, node: string } | undefined
  clockMs: number | undefined
  interruptible: boolean
  /** Why it is not there yet; `orderedAt`: it comes for the peak, and is ordered then. */
  waits?: { sentence: string, since: number, orderedAt?: number }
  /** Its provider takes it back then. */
  reclaimAt?: number
  /** It has the place of one that failed. */
  again?: true
  /** By its provider, in the price's currency. */
  billed?: number
}

export type WayName = 'cloud' | 'private' | 'selfEnrolled'

export interface FleetView {
  now: number
  /** `usualMs`: from allocation to enrolment, as seen. `pathMs`: round trip to the target, as last seen. */
  locations: {
    code: string
    provider: string
    region: string
    way: WayName | undefined
    offer: RegionOffer | undefined
    machines: MachineLine[]
    usualMs?: number
    pathMs?: number
  }[]
  /** `ownEnd`: how its machines end when nobody is left to end them. */
  ways: { id: string, name: string, way: WayName, ownEnd: 'natively' | 'by powering off' | 'not', silent?: string }[]
  /** What went wrong while nobody was asking, the latest first; moments: ms since 1970. */
  faults: { what: string, sentence: string, times: number, since: number, at: number }[]
  strays: {
    provider: string
    ref: string
    name: string
    kind: 'machine' | 'disk' | 'address'
    region: string
    type: string
    since: number
    why: 'unknown' | 'outlived'
  }[]
}

/** Answers to a roll call with what they mean. `at` 0: never called. */
export interface RollCallView {
  machines: (CalledMachine & { at?: number })[]
  findings: RollCallFinding[]
}

/** One machine, opened. */
export interface MachineView {
  machine: MachineLine
  crew: { runId: number, name: string, takenAt: number, leftAt: number | undefined, cost: number }[]
  price: Price
  ref: string | undefined
  address: string | undefined
  connected: boolean
  log: string | undefined
  rollCall: RollCallView | undefined
  /** Cost should its lease run to its end. */
  committed: number
}

export interface GuardRailsView {
  mostMachines: number
  mostUsers: number
  longestRunMin: number
  budgetPerRun: number
  budgetPerDay: number
  currency: string
}

export interface CostsView {
  now: number
  rails: GuardRailsView
  today: number
  /** Still to come of what is out, should every lease run to its end. */
  committed: number
  byDay: { day: number, cost: number }[]
  runs: { runId: number, plan: string, machines: number, cost: number, forecast?: number, billed?: number }[]
  plans: { plan: string, cost: number }[]
}

/** A capacity as a line of a list. */
export interface CapacityLine {
  capacity: Capacity
  /** What has changed since it was made, in words; empty: it holds. */
  stale: string[]
  /** Users one generator should be given at the usual headroom; 0: none are known. */
  recommended: number
  /** Users per unit of money and hour, at the price of its day. */
  usersPerMoneyHour?: number
}

export interface CalibrationBatchView extends CalibrationBatch {
  /** The run that is under way, and what it has seen. */
  run?: { id: number, state: RunState, startAt?: number }
  seen?: CalibrationEvidence
}

export interface CapacitiesView {
  capacities: CapacityLine[]
  batches: CalibrationBatchView[]
  journeys: { id: string, name: string, kind: Journey['kind'] }[]
  networks: { id: string, name: string }[]
  targets: Target[]
  offers: Record<string, RegionOffer[] | undefined>
}

/**
 * One capacity, opened: `history`: the same over time; `comparison`: the newest of its journey on other machines and
 * networks.
 */
export interface CapacityView {
  line: CapacityLine
  evidence?: CalibrationEvidence
  history: CapacityLine[]
  comparison: CapacityLine[]
  plans: { id: string, name: string }[]
}

/** A gathering run: what it waits for. */
export interface GatheringView {
  since: number
  /** When it gives up. */
  deadlineAt: number
  orders: {
    location: string
    type: string
    wanted: number
    there: number
    waiting: { name: string, state: MachineState, sentence: string, since: number }[]
    usualMs?: number
  }[]
  /** Share of the load it would go with now; undefined: it cannot go. */
  goFactor: number | undefined
}

export interface AccountView {
  id: string
  name: string
  address: string
  ownEnd: 'natively' | 'by powering off' | 'not'
}
/** How long things stay; left out: for good. */
export interface KeepingRules {
  /** Runs that took longer have their frames folded when they are over, hours. */
  foldHours?: number
  /** What runs measured second by second, days. */
  runDays?: number
  /** Exchanges kept whole, and what commands left, days. */
  exchangeDays?: number
  /** Uploads that nothing refers to, days. */
  uploadDays?: number
}
export interface KeptView {
  rules: KeepingRules
  databaseBytes: number
  runsBytes: number
  uploadsBytes: number
  freeBytes: number
  /** How many may go now by the rules. */
  due: { runs: number, exchanges: number, frames: number, uploads: number }
  /** Runs that have ended, the latest first. Moments: ms since 1970. */
  runs: {
    id: number
    question: string
    isCalibration: boolean
    endedAt: number
    bytes: number
    kept: boolean
    exchangesClearedAt: number | undefined
    clearedAt: number | undefined
    /** When its frames were folded. */
    foldedAt: number | undefined
  }[]
}
export interface HostLineView extends Host {
  ref: string
  tried: HostTry | undefined
  ok: boolean
  reserved: boolean
  hostKey: string | undefined
  /** What it showed instead, and may be accepted. */
  otherKey: string | undefined
}
export interface SiteView {
  site: Site
  hosts: HostLineView[]
}
export interface HostsView {
  sites: SiteView[]
  keys: { name: string, fingerprint: string }[]
}
export interface CommandView {
  id: number
  at: number
  command: string
  results: { host: string, code: number | null, out: string, err: string, tookMs: number, problem?: string }[]
}
export interface InvitedView {
  id: string
  expiresAt: number
  shell: string
  cloudInit: string
  container: string
}
export interface InvitationLine {
  id: string
  location: string
  madeAt: number
  expiresAt: number
  leaseMs: number
}

export interface RunView {
  line: RunLine
  document: RunDocument
  changes: RunChange[]
  machines: MachineLine[]
  gathering: GatheringView | undefined
  rollCall: RollCallView
  /** Of its machines so far, and as forecast when it was started. */
  cost: number
  /** Generators in the order of their numbers. */
  generators: {
    machineId: string
    name: string
    location: string
    /** Nothing was heard of it since then: its users are unknown. ms since 1970. */ silentSince?: number
  }[]
  lengthS: number
  /** Users planned at the end of each run second; of open drives, expected. */
  planned: number[]
  /** The same of the groups whose users come and go by the plan, by their places: only they can be off it. */
  byPlan: { groups: number[], planned: number[] }
  summary: RunSummary | undefined
  /** Where objectives were broken so far, of a run that loads; later its summary says it. */
  brokenSoFar: BrokenStretch[]
  /** What its steps took in the rehearsal: nobody else was there, no network added. */
  unloaded: UnloadedTime[]
  notes: string
  now: number
  /** For good: nothing of it is given back. */
  kept: boolean
  /** When its exchanges, or everything but its answer, were given back, ms since 1970. */
  exchangesClearedAt: number | undefined
  clearedAt: number | undefined
  /** When what its generators sent was folded: machines are told apart in whole stretches alone since. */
  foldedAt: number | undefined
}

export interface WindowView {
  fromS: number
  toS: number
  total: Figures
  /** Two journeys may have steps of one name. */
  steps: { journeyId: string, step: string, kind: MeasureKind, figures: Figures, byLocation: Record<string, Figures> }[]
  locations: { code: string, figures: Figures }[]
  networks: NetworkFigures[]
  /** Per objective of the plan, in its order. */
  objectives: Evidence[]
  load: LoadThere
}

/** Sent over the live socket. A client asks with `{"watch": runId}` for the seconds of a run. */
export type LiveMessage =
  | { kind: 'meter', meter: MeterView }
  | { kind: 'run', runId: number }
  | { kind: 'fleet' }
  /** Capacities or calibrations have changed. */
  | { kind: 'calibrations' }
  /** Something was sent out, or is to be. */
  | { kind: 'dispatches' }
  /** Rows of files from elsewhere that were seen so far. */
  | { kind: 'resultRows', name: string, rows: number }
  | { kind: 'seconds', runId: number, seconds: SecondFigures[] }

/** One journey as a line of a list. */
export interface JourneyLine {
  id: string
  name: string
  kind: Journey['kind']
  version: number
  savedAt: number
  tags: string[]
  steps: number
  passThinkMs: number
  /** Names of plans whose groups walk it. */
  plans: string[]
  /** Problems in the way. */
  problems: number
}

export interface JourneyView {
  journey: Journey
  version: number
  savedAt: number
  history: { version: number, savedAt: number, name: string }[]
  problems: JourneyProblem[]
  feeds: Feed[]
  targets: Target[]
  /** Generators that are enrolled and carry nothing now. */
  idle: { machineId: string, name: string, location: string }[]
}

export interface TriedView {
  records: ExchangeRecord[]
  problem: string
}

/** Passes kept whole, those longest on exchanges first. */
export interface PassesView {
  passes: (PassRecord & { id: number, generator: number })[]
  /** How many match, and how many were kept in the whole run. */
  total: number
  kept: number
}

export interface ExemplarsView {
  records: (ExchangeRecord & { id: number, generator: number })[]
  total: number
  dropped: number
}

/** `id`: the SHA-256 of its content. `addedAt`: ms since 1970. */
export interface UploadedFile {
  id: string
  name: string
  bytes: number
  addedAt: number
}

/** Who asks. `open`: nobody can sign in yet, and anyone who is on this computer may do everything. */
export interface MeView {
  open: boolean
  person?: { name: string, role: Role }
  /** Another service that one can sign in with: what its button says. */
  elsewhere?: string
}

/** Moments are ms since 1970. `by`: with what they sign in. `leftAt`: not let in any more since then. */
export interface PersonLine {
  id: number
  name: string
  role: Role
  by: 'password' | 'elsewhere' | 'both'
  createdAt: number
  leftAt?: number
  seenAt?: number
}

/** A browser one is signed in with. */
export interface SessionLine {
  id: number
  createdAt: number
  seenAt: number
  address: string
  browser: string
  /** The one that asks. */
  isThis: boolean
}

export interface TokenLine {
  id: number
  name: string
  role: Role
  createdAt: number
  endsAt: number
  usedAt?: number
}

/** What somebody did. `at`: ms since 1970. `bearer`: with what they came; empty: not known. */
export interface TrailEntry {
  id: number
  at: number
  who: string
  bearer: string
  address: string
  /** An operation of the API. */
  act: string
  /** What the act is, in words. */
  says: string
  /** Names in its address, or of what was made. */
  about: string
  /** `done`, or the code it was refused with. */
  outcome: string
}

/** `more`: there are older ones. */
export interface TrailView {
  entries: TrailEntry[]
  more: boolean
}
