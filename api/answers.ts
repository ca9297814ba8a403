/**
 * What each operation of the API answers with. The schemas of `answers.json` are made from these types
 * (`npm run schemas`): nothing is written twice.
 */
import type { Recognised } from '../core/elsewhere/recognise'
import type { ReadingTemplate, Scanned, TakenLines } from '../core/elsewhere/results'
import type { HarChoices, HarReview } from '../core/formats/har-to-journey'
import type { ReadJourney } from '../core/formats/journey-text'
import type { OpenApiReview } from '../core/formats/openapi'
import type { ReadPlan } from '../core/formats/plan-text'
import type { Capacity } from '../core/capacity/capacity'
import type { Host, HostTry } from '../core/fleet/site'
import type { Feed } from '../core/journey/feed'
import type { Journey } from '../core/journey/journey'
import type { JourneyProblem } from '../core/journey/problems'
import type { Target } from '../core/journey/target'
import type { Client } from '../core/client/client'
import type { NetworkProfile } from '../core/network/profile'
import type { RegionOffer } from '../core/offers/machine-type'
import type { Plan } from '../core/plan/document'
import type { Wall } from '../core/result/wall'
import type {
  AccountView,
  TargetView,
  CompareView,
  ThreeWayView,
  TrendView,
  TriedSource,
  AgainView,
  ApiProblem,
  BoardView,
  CalibrationBatchView,
  CapacitiesView,
  CapacityView,
  CommandView,
  CostsView,
  ExemplarsView,
  PassesView,
  FailureReport,
  FleetView,
  GuardRailsView,
  KeptView,
  HostsView,
  InvitationLine,
  InvitedView,
  JourneyLine,
  JourneyView,
  MachineView,
  MeterView,
  MeView,
  NetworksView,
  ClientsView,
  PersonLine,
  PlanChangesView,
  PlanCheck,
  PlanLine,
  PlanView,
  RollCallView,
  RunLine,
  ReportView,
  SendingView,
  OpenedStream,
  SharedLinkLine,
  SharedView,
  RunView,
  SecondFigures,
  SessionLine,
  SourceTokenLine,
  StreamsView,
  Slices,
  CoursesView,
  Distribution,
  MachineCourse,
  MachineRecord,
  SiteView,
  TokenLine,
  TrailView,
  TriedView,
  UploadedFile,
  WindowView,
} from './views'

/** It was done; there is nothing else to tell. */
export interface Done {
  done: true
}

/** `savedAt`: ms since 1970. */
export interface SavedPlan {
  id: string
  version: number
  savedAt: number
  plan: Plan
  archived: boolean
}

/** `savedAt`: ms since 1970. */
export interface SavedJourney {
  id: string
  version: number
  savedAt: number
  journey: Journey
}

/** A journey that was made from something else, and its target. `remarks`: what was not converted, in words. */
export interface ImportedJourney {
  journeyId: string
  targetId: string
  remarks: string[]
}

/** What a command left on a generator. */
export interface LeftoverLine {
  generator: number
  group: string
  name: string
  bytes: number
}

/** Everything that is answered: what schemas are made of. */
export interface Answered {
  answers: Answers
  problem: ApiProblem
}

export interface Answers {
  board: BoardView
  meter: MeterView

  plans: PlanLine[]
  plan: PlanView
  newPlan: SavedPlan
  savePlan: SavedPlan
  checkPlan: PlanCheck
  readPlan: ReadPlan
  clonePlan: SavedPlan
  archivePlan: Done
  planChanges: PlanChangesView
  startPlan: RunLine

  journeys: JourneyLine[]
  journey: JourneyView
  newJourney: SavedJourney
  saveJourney: SavedJourney
  checkJourney: JourneyProblem[]
  readJourney: ReadJourney
  tryJourney: TriedView
  removeJourney: Done
  reviewHar: { review: HarReview, choices: HarChoices }
  importHar: ImportedJourney
  importOpenApi: OpenApiReview | ImportedJourney
  importAddresses: { journeyId: string, targetId: string, planId: string }

  upload: UploadedFile
  feeds: Feed[]
  newFeed: Feed
  removeFeed: Done

  targets: Target[]
  newTarget: Target
  saveTarget: Target
  trySource: TriedSource
  setApproval: Target
  removeTarget: Done
  sourceTokens: SourceTokenLine[]
  newSourceToken: { token: string }
  endSourceToken: Done
  sendLines: { taken: number, runs: number }

  recogniseResults: Recognised
  scanResults: Scanned
  importResults: RunLine
  readingTemplates: ReadingTemplate[]
  keepReadingTemplate: ReadingTemplate[]
  removeReadingTemplate: Done
  openStreams: { run: number, streams: OpenedStream[] }
  streams: StreamsView
  openArchive: RunLine
  tellLines: TakenLines
  endTelling: Done

  networks: NetworksView
  saveNetwork: NetworkProfile
  removeNetwork: Done
  clients: ClientsView
  saveClient: Client
  removeClient: Done
  restore: Done

  fleet: FleetView
  machine: MachineView
  extendLease: Done
  releaseMachine: Done
  releaseIdle: Done
  releaseStray: Done
  lookForStrays: Done
  rollCall: RollCallView
  callRoll: { asked: number }
  costs: CostsView
  offers: Record<string, RegionOffer[] | undefined>
  rails: GuardRailsView
  saveRails: Done
  kept: KeptView
  saveKeeping: Done
  clearNow: { freedBytes: number }

  accounts: AccountView[]
  saveAccount: Done
  removeAccount: Done
  hosts: HostsView
  readHosts: Host[]
  tryHosts: Record<string, HostTry>
  acceptHostKeys: Done
  commandHosts: CommandView
  saveSite: SiteView
  removeSite: Done
  saveKey: { name: string, fingerprint: string }
  removeKey: Done
  invitations: InvitationLine[]
  invite: InvitedView[]
  withdrawInvitation: Done

  capacities: CapacitiesView
  capacity: CapacityView
  takeCapacities: { taken: number }
  setCapacity: Capacity
  refineCapacity: Capacity
  dropCapacity: Done
  calibrate: { id: number }
  calibration: CalibrationBatchView
  stopCalibration: Done

  runs: RunLine[]
  run: RunView
  again: AgainView
  repeat: RunLine
  goWith: Done
  stopRun: Done
  abortRun: Done
  markRun: Done
  seconds: SecondFigures[]
  window: WindowView
  slices: Slices
  distributions: Distribution[]
  courses: CoursesView
  failures: FailureReport
  targetAccount: TargetView
  threeWay: ThreeWayView
  compare: CompareView
  trend: TrendView
  machineRecords: MachineRecord[]
  machineCourse: MachineCourse
  exemplars: ExemplarsView
  passes: PassesView
  wall: Wall
  sending: SendingView
  setMailServer: Done
  setFigureGoal: Done
  removeFigureGoal: Done
  tryFigureGoal: Done
  removeMailServer: Done
  tryMail: Done
  newHook: { id: number, secret: string }
  removeHook: Done
  tryHook: Done
  sendAgain: Done
  mailReport: Done
  sharedLinks: SharedLinkLine[]
  share: { id: number, secret: string }
  endLink: Done
  shared: SharedView
  sharedWall: Wall
  report: ReportView
  setReport: Done
  saveReportTemplate: Done
  removeReportTemplate: Done
  setBaseline: Done
  keepRun: Done
  foldRun: Done
  describeRun: Done
  leftovers: LeftoverLine[]

  me: MeView
  signIn: MeView
  signOut: Done
  setPassword: Done
  sessions: SessionLine[]
  endSession: Done
  tokens: TokenLine[]
  makeToken: { token: string }
  endToken: Done
  people: PersonLine[]
  addPerson: Done
  changePerson: Done
  resetPassword: Done
  trail: TrailView
}
