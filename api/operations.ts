/**
 * The API as one table: what each operation does, with what it is asked and how it can fail. Where it is asked stands
 * in addresses.ts, what it answers in answers.ts. Server routes, the app's client and the OpenAPI document are made of
 * them.
 */
import { Type, type Static, type TObject, type TProperties, type TSchema } from '@sinclair/typebox'
import { OPEN_METRICS } from '../core/formats/open-metrics'
import { addressParts, type ADDRESSES, type OperationId } from './addresses'
import type { Answers } from './answers'
import type { ErrorCode } from './errors'
import * as bodies from './requests'
import type { Permission } from './roles'

export interface Operation extends Permission {
  about: string
  query?: TProperties
  /** Of the JSON that is sent; `'bytes'`: a file as it is. */
  body?: TSchema | 'bytes'
  /** Sent with POST, but nothing is kept or done: it leaves no trace in the trail. */
  asksOnly?: true
  /** Sent by a program many times a minute: it leaves no trace in the trail. */
  isOften?: true
  /** It answers with where to go (303): a browser asks for it, not a program. */
  leads?: true
  /** Type of a file that is answered; left out: JSON as {@link Answers} says. */
  file?: string
  /** Codes of its own, besides those of {@link errorsOf}. */
  errors: readonly ErrorCode[]
}

const whole = (description: string) => Type.Integer({ minimum: 0, description })
const text = (description: string) => Type.String({ description })

export const PATH_PARAMETERS = {
  run: whole('the number of a run'),
  generator: whole('the number of a generator in its run'),
  calibration: whole('the number of a calibration'),
  command: whole('the number of a command'),
  plan: text('the id of a plan'),
  journey: text('the id of a journey'),
  target: text('the id of a target'),
  feed: text('the id of a feed'),
  network: text('the id of a network profile'),
  client: text('the id of a client'),
  machine: text('the id of a machine'),
  kind: Type.Union(
    (['target', 'journey', 'feed', 'network', 'client'] as const).map(k => Type.Literal(k)),
    { description: 'target, journey, feed, network or client' },
  ),
  removed: text('the id of what was removed'),
  account: text('the id of an account'),
  site: text('the id of a private site'),
  key: text('the name of a key'),
  invitation: text('the id of an invitation'),
  capacity: text('the id of a capacity'),
  provider: text('the id of a provider'),
  ref: text('what its provider calls a machine'),
  session: whole('the number of a session'),
  token: whole('the number of a token'),
  person: whole('the number of a person'),
  template: text('the name of a report template'),
  link: whole('the number of a link'),
  hook: whole('the number of a hook'),
  dispatch: whole('the number of what was sent, or is to be'),
} as const satisfies Record<string, TSchema>

const { Optional: optional } = Type
const version = Type.Integer({ minimum: 1, description: 'the number of a version' })
const runSecond = whole('a second of the run')
const mostSeconds = Type.Integer({ minimum: 1, description: 'how many at most' })
/** Where what is looked for was measured. */
const places = {
  locations: optional(text('codes of locations, with commas between')),
  machines: optional(text('names of machines, with commas between')),
}

/** Which runs are beside each other, and at what. */
const COMPARE_QUERY = {
  runs: text('numbers of runs with commas between; the others are held against the first'),
  users: optional(Type.Integer({ minimum: 1, description: 'a number of users all of them held; left out: the most' })),
  metric: optional(bodies.comparedMetric),
}
const COMPARE_ERRORS = ['compare', 'not-judged', 'not-found', 'given-back'] as const

const reportTemplate = optional(text('the name of a report template; left out: as the run’s report was chosen'))

/** Which exchanges that were kept are wanted. */
const KEPT_QUERY = {
  step: optional(text('the name of a step')),
  journeyId: optional(text('the id of a journey')),
  failure: optional(text('a kind of failure')),
  groups: optional(text('letters of groups, with commas between')),
  user: optional(Type.Number({ description: 'the number of a user in its group' })),
  pass: optional(Type.Number({ description: 'the number of a pass of its user' })),
  ...places,
  rehearsal: optional(Type.Boolean({ description: 'true or false: those of the rehearsal, and not of the load' })),
  newest: optional(Type.Boolean({ description: 'true or false: whether the newest come first, and not the slowest' })),
  right: optional(Type.Boolean({ description: 'true or false: whether right answers alone count' })),
  status: optional(Type.Number({ description: 'the status of the answer' })),
  fromMs: optional(Type.Number({ description: 'a response time, ms' })),
  toMs: optional(Type.Number({ description: 'a response time, ms' })),
  fromS: optional(Type.Number({ description: 'a second of the run' })),
  toS: optional(Type.Number({ description: 'a second of the run' })),
}

/** What can be wrong with a try of a journey. */
const TRY_ERRORS = ['not-found', 'busy', 'command', 'not-approved', 'approval-over', 'sealed', 'secret-elsewhere'] as const
const START_ERRORS = ['not-found', 'in-the-way', 'sealed', 'secret-elsewhere', 'disk'] as const

export const OPERATIONS = {
  board: { role: 'viewer', about: 'Latest runs, machines that are out, plans.', errors: [] },
  meter: { role: 'viewer', about: 'What is out now, and what it costs.', errors: [] },

  plans: {
    role: 'viewer',
    about: 'All plans, or those that are archived.',
    query: { archived: optional(Type.Integer({ minimum: 0, maximum: 1, description: '0 or 1 (1: those that are archived)' })) },
    errors: [],
  },
  plan: {
    role: 'viewer',
    about: 'A plan with all that its sheet needs, as it is or as a version of it was.',
    query: { version: optional(version) },
    errors: ['not-found'],
  },
  newPlan: {
    role: 'operator',
    about: 'Keeps a plan that was read, or begins one.',
    body: bodies.NEW_PLAN,
    errors: ['not-found'],
  },
  savePlan: {
    role: 'operator',
    about: 'Saves a plan as its next version.',
    body: bodies.SAVE_PLAN,
    errors: ['saved-meanwhile'],
  },
  checkPlan: {
    role: 'viewer', asksOnly: true,
    about: 'What is in the way of a plan, what it takes and what it would cost; nothing is saved.',
    body: bodies.CHECK_PLAN,
    errors: [],
  },
  readPlan: {
    role: 'viewer', asksOnly: true,
    about: 'A plan file as a plan, or what is wrong in which line; nothing is saved.',
    body: bodies.PASTED_TEXT,
    errors: ['import'],
  },
  clonePlan: {
    role: 'operator',
    about: 'A new plan like this one.',
    body: bodies.CLONE_PLAN,
    errors: ['not-found'],
  },
  archivePlan: {
    role: 'operator',
    about: 'Puts a plan away, or brings it back.',
    body: bodies.ARCHIVE_PLAN,
    errors: ['not-found'],
  },
  planChanges: {
    role: 'viewer',
    about: 'What one version changed against another.',
    query: { from: optional(version), to: optional(version) },
    errors: ['not-found'],
  },
  planText: {
    role: 'viewer',
    about: 'A plan as a file.',
    query: { version: optional(version) },
    file: 'application/yaml; charset=utf-8',
    errors: ['not-found'],
  },
  startPlan: {
    role: 'operator',
    about: 'Starts a run of a plan as it is saved.',
    body: bodies.REASON,
    errors: START_ERRORS,
  },

  journeys: { role: 'viewer', about: 'All journeys.', errors: [] },
  journey: {
    role: 'viewer',
    about: 'A journey with all that its editor needs.',
    query: { version: optional(version) },
    errors: ['not-found'],
  },
  newJourney: {
    role: 'operator',
    about: 'Keeps a journey under an id of its own.',
    body: bodies.NEW_JOURNEY,
    errors: [],
  },
  saveJourney: {
    role: 'operator',
    about: 'Saves a journey as its next version.',
    body: bodies.SAVE_JOURNEY,
    errors: ['not-found', 'saved-meanwhile'],
  },
  checkJourney: {
    role: 'viewer', asksOnly: true,
    about: 'What is wrong with a journey, against a target if one is named; nothing is saved.',
    body: bodies.CHECK_JOURNEY,
    errors: [],
  },
  readJourney: {
    role: 'viewer', asksOnly: true,
    about: 'A journey file as a journey, or what is wrong in which line; nothing is saved.',
    body: bodies.PASTED_TEXT,
    errors: ['import'],
  },
  tryJourney: {
    role: 'operator',
    about: 'One user goes once through a journey.',
    body: bodies.TRY_JOURNEY,
    errors: TRY_ERRORS,
  },
  journeyText: {
    role: 'viewer',
    about: 'A journey as a file.',
    file: 'application/yaml; charset=utf-8',
    errors: ['not-found'],
  },
  removeJourney: {
    role: 'operator',
    about: 'Removes a journey that no plan walks.',
    body: bodies.NOTHING,
    errors: ['not-found', 'in-use'],
  },
  reviewHar: {
    role: 'viewer', asksOnly: true,
    about: 'What a capture holds, and what would become of it.',
    body: bodies.IMPORT_HAR,
    errors: ['file', 'import'],
  },
  importHar: {
    role: 'operator',
    about: 'Makes a journey, and a target, of a capture.',
    body: bodies.IMPORT_HAR_JOURNEY,
    errors: ['file', 'import', 'nothing-kept'],
  },
  importOpenApi: {
    role: 'operator',
    about: 'What an OpenAPI document describes; with operations chosen: a journey, and a target, of them.',
    body: bodies.IMPORT_OPENAPI,
    errors: ['file', 'import', 'base-url', 'nothing-kept'],
  },
  importAddresses: {
    role: 'operator',
    about: 'A journey, a target and a plan of a list of addresses.',
    body: bodies.PASTED_ADDRESSES,
    errors: ['import', 'not-found'],
  },

  upload: {
    role: 'operator',
    about: 'Keeps a file under the SHA-256 of its content.',
    query: { name: optional(text('the name of the file')) },
    body: 'bytes',
    errors: ['empty', 'disk'],
  },
  feeds: { role: 'viewer', about: 'All feeds.', errors: [] },
  newFeed: {
    role: 'operator',
    about: 'Makes a feed of an uploaded table.',
    body: bodies.NEW_FEED,
    errors: ['file', 'import'],
  },
  removeFeed: {
    role: 'operator',
    about: 'Removes a feed that no journey reads.',
    body: bodies.NOTHING,
    errors: ['not-found', 'in-use'],
  },

  targets: { role: 'viewer', about: 'All targets; secrets by their names alone.', errors: [] },
  newTarget: {
    role: 'operator',
    about: 'Keeps a target under an id of its own.',
    body: bodies.SAVE_TARGET,
    errors: ['address', 'source', 'own-host', 'address-range', 'zone', 'sealed', 'secret-elsewhere'],
  },
  saveTarget: {
    role: 'operator',
    about: 'Saves a target; secrets that are left out stay.',
    body: bodies.SAVE_TARGET,
    errors: ['address', 'source', 'own-host', 'address-range', 'zone', 'sealed', 'secret-elsewhere'],
  },
  trySource: {
    role: 'operator',
    asksOnly: true,
    about: 'Reads a source of a target’s own figures once: at which step that fails, what it offers, what would be read.',
    body: bodies.TRY_SOURCE,
    errors: ['not-found', 'source', 'sealed', 'secret-elsewhere'],
  },
  setApproval: {
    role: 'keeper',
    about: 'Records what the owner of a target has agreed to.',
    body: bodies.SET_APPROVAL,
    errors: ['not-found', 'own-host', 'address-range', 'zone'],
  },
  removeTarget: {
    role: 'operator',
    about: 'Removes a target that no plan names.',
    body: bodies.NOTHING,
    errors: ['not-found', 'in-use'],
  },

  sourceTokens: { role: 'viewer', about: 'Which sources of a target have a token, and when it was used last.', errors: [] },
  newSourceToken: {
    role: 'operator',
    about: 'Makes a token by which a program sends a target’s own figures to a source; the one before ends.',
    body: bodies.OF_SOURCE,
    errors: ['not-found'],
  },
  endSourceToken: {
    role: 'operator',
    about: 'Takes the token of a source back.',
    body: bodies.OF_SOURCE,
    errors: ['not-found'],
  },
  sendLines: {
    role: 'viewer',
    by: ['source'],
    isOften: true,
    about: 'Takes figures of a target from a program that comes with the token of a source: lines “name value [time]”.',
    body: 'bytes',
    errors: ['sent', 'busy', 'too-large'],
  },
  sendMetrics: {
    role: 'viewer',
    by: ['source'],
    isOften: true,
    about: 'The same in the open telemetry protocol (OTLP over HTTP), as JSON or protobuf.',
    body: 'bytes',
    file: 'application/json',
    errors: ['sent', 'busy', 'too-large'],
  },

  recogniseResults: {
    role: 'operator', asksOnly: true,
    about: 'What an uploaded file of results looks like: its form, and what each column holds.',
    body: bodies.UPLOADED,
    errors: ['file', 'import'],
  },
  scanResults: {
    role: 'operator', asksOnly: true,
    about: 'Reads files of results as it is said, and tells what they hold; nothing is kept.',
    body: bodies.SCAN_RESULTS,
    errors: ['file', 'import'],
  },
  importResults: {
    role: 'operator',
    about: 'Makes a run of files of results that other programs measured.',
    body: bodies.IMPORT_RESULTS,
    errors: ['file', 'import', 'disk', 'not-found', 'given-back'],
  },
  readingTemplates: { role: 'viewer', about: 'Ways of reading results that are kept.', errors: [] },
  keepReadingTemplate: {
    role: 'operator',
    about: 'Keeps a way of reading results by its name.',
    body: bodies.READING_TEMPLATE,
    errors: [],
  },
  removeReadingTemplate: {
    role: 'operator',
    about: 'Removes a way of reading results.',
    body: bodies.NAMED,
    errors: ['not-found'],
  },
  openStreams: {
    role: 'operator',
    about: 'Makes a run that other programs tell of while they measure; answers a token for each, once.',
    body: bodies.OPEN_STREAMS,
    errors: ['disk'],
  },
  streams: { role: 'viewer', about: 'Programs elsewhere that tell of a run.', errors: ['not-found'] },
  runArchive: {
    role: 'viewer',
    about: 'All of a run that has ended, as one file that another installation opens as the same run.',
    file: 'application/gzip',
    errors: ['not-found', 'given-back', 'archive'],
  },
  openArchive: {
    role: 'operator',
    about: 'Opens the archive of a run that was uploaded.',
    body: bodies.UPLOADED,
    errors: ['file', 'archive', 'disk'],
  },
  tellLines: {
    role: 'viewer',
    by: ['stream'],
    isOften: true,
    about: 'Takes what a program elsewhere measures, as lines of JSON, with the token of its stream; they are safe when this is answered.',
    query: {
      batch: optional(Type.Integer({ minimum: 1, description: 'counted by the sender: one that comes again is not counted again' })),
      sentAt: optional(Type.Number({ description: 'the sender’s own clock, ms since 1970: times are moved by the difference' })),
    },
    body: 'bytes',
    errors: ['stream', 'sent', 'too-large'],
  },
  endTelling: {
    role: 'viewer',
    by: ['stream'],
    about: 'The last word of a program elsewhere; its run is over when all have said theirs.',
    body: bodies.NOTHING,
    errors: ['stream'],
  },

  networks: { role: 'viewer', about: 'All network profiles.', errors: [] },
  saveNetwork: {
    role: 'operator',
    about: 'Saves a network profile.',
    body: bodies.SAVE_NETWORK,
    errors: ['profile', 'preset'],
  },
  removeNetwork: {
    role: 'operator',
    about: 'Removes a network profile that no plan names.',
    body: bodies.NOTHING,
    errors: ['not-found', 'preset', 'in-use'],
  },

  clients: { role: 'viewer', about: 'All clients: named sets of headers.', errors: [] },
  saveClient: {
    role: 'operator',
    about: 'Saves a client.',
    body: bodies.SAVE_CLIENT,
    errors: ['client', 'preset'],
  },
  removeClient: {
    role: 'operator',
    about: 'Removes a client that no plan names.',
    body: bodies.NOTHING,
    errors: ['not-found', 'preset', 'in-use'],
  },

  restore: {
    role: 'operator',
    about: 'Brings back what was removed within the last week.',
    body: bodies.NOTHING,
    errors: ['not-found'],
  },

  fleet: { role: 'viewer', about: 'Machines by location, ways to them, strays.', errors: [] },
  machinesFile: {
    role: 'viewer',
    about: 'Machines and their costs as CSV.',
    file: 'text/csv; charset=utf-8',
    errors: [],
  },
  machine: { role: 'viewer', about: 'A machine, opened.', errors: ['not-found'] },
  extendLease: {
    role: 'operator',
    about: 'Makes the lease of a machine longer.',
    body: bodies.EXTEND_LEASE,
    errors: ['not-found', 'budget', 'provider-silent'],
  },
  releaseMachine: {
    role: 'operator',
    about: 'Gives a machine back that carries no load.',
    body: bodies.REASON,
    errors: ['not-found', 'carries-load', 'provider-silent'],
  },
  releaseIdle: {
    role: 'operator',
    about: 'Gives every machine back that carries no load.',
    body: bodies.NOTHING,
    errors: ['provider-silent'],
  },
  lookForStrays: {
    role: 'operator',
    about: 'Asks providers at once what they have of ours.',
    body: bodies.NOTHING,
    errors: ['provider-silent'],
  },
  releaseStray: {
    role: 'keeper',
    about: 'Gives back what nobody here knows of.',
    body: bodies.REASON,
    errors: ['not-found', 'provider-silent'],
  },
  rollCall: { role: 'viewer', about: 'What machines answered last, and what it means.', errors: [] },
  callRoll: {
    role: 'operator',
    about: 'Asks machines for their clock, their core and their path.',
    body: bodies.CALL_ROLL,
    errors: ['not-found'],
  },
  costs: { role: 'viewer', about: 'What was spent, by day, run and plan.', errors: [] },
  offers: { role: 'viewer', about: 'What each provider rents, where; nothing of one that does not answer.', errors: [] },
  rails: { role: 'viewer', about: 'Guard rails.', errors: [] },
  kept: { role: 'viewer', about: 'How long things stay, and how large they are.', errors: [] },
  saveKeeping: { role: 'keeper', about: 'Sets how long things stay.', body: bodies.SAVE_KEEPING, errors: [] },
  clearNow: { role: 'keeper', about: 'Gives back what may go by the rules.', body: bodies.NOTHING, errors: [] },
  saveRails: {
    role: 'keeper',
    about: 'Sets guard rails.',
    body: bodies.SAVE_RAILS,
    errors: [],
  },

  accounts: { role: 'keeper', about: 'Accounts at providers; keys are not shown.', errors: [] },
  saveAccount: {
    role: 'keeper',
    about: 'Tries an account, and keeps it.',
    body: bodies.SAVE_ACCOUNT,
    errors: ['account', 'account-key', 'account-name', 'sealed'],
  },
  removeAccount: {
    role: 'keeper',
    about: 'Removes an account that has no machines out.',
    body: bodies.NOTHING,
    errors: ['not-found', 'account-in-use'],
  },
  hosts: { role: 'viewer', about: 'Private sites with their hosts; keys by their names.', errors: [] },
  readHosts: {
    role: 'viewer', asksOnly: true,
    about: 'A pasted table as hosts; nothing is saved.',
    body: bodies.PASTED_TEXT,
    errors: ['hosts', 'import'],
  },
  tryHosts: {
    role: 'operator',
    about: 'Tries hosts step by step.',
    body: bodies.HOST_REFS,
    errors: ['not-found'],
  },
  acceptHostKeys: {
    role: 'keeper',
    about: 'Accepts the keys that hosts have shown instead of those they are known by.',
    body: bodies.ACCEPT_HOST_KEYS,
    errors: ['not-found', 'host-key'],
  },
  commandHosts: {
    role: 'keeper',
    about: 'Runs a command on hosts.',
    body: bodies.HOST_COMMAND,
    errors: ['not-found'],
  },
  commandFile: {
    role: 'keeper',
    about: 'What a command printed on all hosts, as one file.',
    file: 'text/plain; charset=utf-8',
    errors: ['not-found'],
  },
  saveSite: {
    role: 'keeper',
    about: 'Saves a private site with its hosts.',
    body: bodies.SAVE_SITE,
    errors: ['host-twice', 'host-in-use', 'no-key'],
  },
  removeSite: {
    role: 'keeper',
    about: 'Removes a private site that has no machines out.',
    body: bodies.NOTHING,
    errors: ['not-found', 'host-in-use'],
  },
  saveKey: {
    role: 'keeper',
    about: 'Seals a private key.',
    body: bodies.SAVE_KEY,
    errors: ['key', 'sealed'],
  },
  removeKey: {
    role: 'keeper',
    about: 'Removes a private key that no site uses.',
    body: bodies.NOTHING,
    errors: ['not-found', 'key-in-use'],
  },
  invitations: { role: 'keeper', about: 'Invitations that are open.', errors: [] },
  invite: {
    role: 'keeper',
    about: 'Invites machines to enrol by themselves: the texts to start them with, shown once.',
    body: bodies.INVITE_MACHINES,
    errors: ['invitation'],
  },
  withdrawInvitation: {
    role: 'keeper',
    about: 'Takes an invitation back.',
    body: bodies.NOTHING,
    errors: ['not-found'],
  },

  capacities: { role: 'viewer', about: 'Capacities, calibrations, and offers.', errors: [] },
  capacity: { role: 'viewer', about: 'A capacity, opened.', errors: ['not-found'] },
  capacitiesFile: {
    role: 'viewer',
    about: 'All capacities as a file that another Vornak takes.',
    file: 'application/json',
    errors: [],
  },
  takeCapacities: {
    role: 'operator',
    about: 'Takes capacities that another Vornak has found.',
    body: bodies.TAKE_CAPACITIES,
    errors: [],
  },
  setCapacity: {
    role: 'operator',
    about: 'Sets a capacity by hand.',
    body: bodies.SET_CAPACITY,
    errors: ['not-found', 'capacity'],
  },
  refineCapacity: {
    role: 'operator',
    about: 'Takes over what a run has shown of a capacity.',
    body: bodies.REFINE_CAPACITY,
    errors: ['not-found'],
  },
  dropCapacity: {
    role: 'operator',
    about: 'Removes a capacity.',
    body: bodies.NOTHING,
    errors: ['not-found'],
  },
  calibrate: {
    role: 'operator',
    about: 'Begins to find out what one generator can carry.',
    body: bodies.CALIBRATE,
    errors: [
      ...TRY_ERRORS,
      'nothing-chosen',
      'unknown-region',
      'unknown-type',
      'no-stock',
      'quota',
      'budget',
      'rail-machines',
      'try-failed',
      'sink',
      'sink-hosts',
      'nobody-here',
    ],
  },
  calibration: { role: 'viewer', about: 'A calibration, and what it sees now.', errors: ['not-found'] },
  stopCalibration: {
    role: 'operator',
    about: 'Ends a calibration.',
    body: bodies.NOTHING,
    errors: ['over'],
  },

  runs: {
    role: 'viewer',
    about: 'Runs of plans, the latest first: 200 at most.',
    query: { before: optional(Type.Integer({ minimum: 1, description: 'the number of a run: older ones only' })) },
    errors: [],
  },
  run: { role: 'viewer', about: 'A run with all that its screen needs.', errors: ['not-found'] },
  again: { role: 'viewer', about: 'What has changed since a run, should it be made again.', errors: ['not-found', 'in-the-way'] },
  repeat: {
    role: 'operator',
    about: 'Starts exactly the same run again.',
    body: bodies.REASON,
    errors: START_ERRORS,
  },
  goWith: {
    role: 'operator',
    about: 'Goes with the machines that are there.',
    body: bodies.NOTHING,
    errors: ['not-found', 'not-under-way', 'cannot-go'],
  },
  stopRun: {
    role: 'operator',
    about: 'Lets users finish their pass and closes the run.',
    body: bodies.REASON,
    errors: ['not-found', 'not-under-way'],
  },
  abortRun: {
    role: 'operator',
    about: 'Ends the load at once.',
    body: bodies.REASON,
    errors: ['not-found', 'not-under-way'],
  },
  markRun: {
    role: 'operator',
    about: 'Writes a note at this second of a run.',
    body: bodies.MARK,
    errors: ['not-found', 'not-under-way'],
  },
  wall: { role: 'viewer', about: 'A run in a sentence, its course and four figures, live and over.', errors: ['not-found', 'given-back'] },
  seconds: {
    role: 'viewer',
    about: 'Figures of every second of a run, or of a window of it; or of at most a given number, each the slowest of its stretch.',
    query: { from: optional(runSecond), to: optional(runSecond), most: optional(mostSeconds) },
    errors: ['not-found', 'window', 'given-back'],
  },
  window: {
    role: 'viewer',
    about: 'Exact figures of a window of a run, by step, location and network.',
    query: { from: runSecond, to: runSecond },
    errors: ['not-found', 'window', 'given-back'],
  },
  slices: {
    role: 'viewer',
    asksOnly: true,
    about: 'Exact figures of a window of a run in rows by step, group, journey, location, network, client or machine, or by two of them.',
    body: bodies.SLICES,
    errors: ['not-found', 'window', 'given-back'],
  },
  distributions: {
    role: 'viewer',
    asksOnly: true,
    about: 'How the response times of slices are spread: bins on a logarithmic axis, percentiles, bands by limits.',
    body: bodies.DISTRIBUTIONS,
    errors: ['not-found', 'window', 'given-back', 'folded'],
  },
  courses: {
    role: 'viewer',
    asksOnly: true,
    about: 'What staffs of the charts draw: statistics of what is chosen over time, in bins of whole seconds, exact.',
    body: bodies.COURSES,
    errors: ['not-found', 'window', 'staff', 'given-back'],
  },
  failures: {
    role: 'viewer',
    asksOnly: true,
    about: 'How, where and when a window of a run failed, and which places differ from the rest by more than chance.',
    body: bodies.FAILURES,
    errors: ['not-found', 'window', 'given-back', 'folded'],
  },
  targetAccount: {
    role: 'viewer',
    about: 'What the target said of itself beside a run: its series over time, how old they are, when they were as before.',
    query: {
      since: optional(Type.Number({ description: 'a run time, s: values from it on' })),
      series: optional(text('names of series, with commas between')),
      most: optional(Type.Number({ description: 'a number of values of each line, about; at most 5,000' })),
    },
    errors: ['not-found', 'given-back'],
  },
  compare: {
    role: 'viewer',
    about: 'Two to six runs beside each other: what differed, by how much, with intervals and the spread of repeats.',
    query: {
      ...COMPARE_QUERY,
      first: optional(Type.Boolean({ description: 'true: intervals of the first rows alone, which are sooner there' })),
    },
    errors: COMPARE_ERRORS,
  },
  compareHtml: {
    role: 'viewer',
    about: 'The same as one page of HTML that needs nothing else.',
    query: { ...COMPARE_QUERY, paper: optional(bodies.paper) },
    file: 'text/html; charset=utf-8',
    errors: [...COMPARE_ERRORS, 'report'],
  },
  comparePdf: {
    role: 'viewer',
    about: 'The same as PDF.',
    query: { ...COMPARE_QUERY, paper: optional(bodies.paper) },
    file: 'application/pdf',
    errors: [...COMPARE_ERRORS, 'report'],
  },
  compareMarkdown: {
    role: 'viewer',
    about: 'The same as Markdown.',
    query: COMPARE_QUERY,
    file: 'text/markdown; charset=utf-8',
    errors: [...COMPARE_ERRORS, 'report'],
  },
  compareCsv: {
    role: 'viewer',
    about: 'The same as CSV: a row for each figure of each run but the first.',
    query: COMPARE_QUERY,
    file: 'text/csv; charset=utf-8',
    errors: COMPARE_ERRORS,
  },
  threeWay: {
    role: 'viewer',
    about: 'Requests of a run step by step: started, answered, and counted by the target itself.',
    errors: ['not-found', 'given-back'],
  },
  trend: {
    role: 'viewer',
    about: 'Objectives and steps of a plan over its runs that were judged, and where the newest was to be expected.',
    errors: ['not-found'],
  },
  machineRecords: {
    role: 'viewer',
    about: 'What each generator of a run told of itself: when, its users, the signal that was furthest past its limit.',
    errors: ['not-found', 'given-back'],
  },
  machineCourse: {
    role: 'viewer',
    about: 'Users and signals of one generator over a window of a run, the largest of each bin.',
    query: { from: runSecond, to: runSecond },
    errors: ['not-found', 'window', 'given-back'],
  },
  exemplars: {
    role: 'viewer',
    about: 'Exchanges that were kept.',
    query: {
      most: optional(Type.Number({ description: 'a number of exchanges; at most 200' })),
      ...KEPT_QUERY,
    },
    errors: ['not-found', 'given-back'],
  },
  passes: {
    role: 'viewer',
    about: 'Passes that were kept whole, those longest on exchanges first.',
    query: {
      most: optional(Type.Number({ description: 'a number of passes; at most 200' })),
      atS: optional(Type.Number({ description: 'a second of the run: passes under way then' })),
      groups: optional(text('letters of groups, with commas between')),
      ...places,
      failed: optional(Type.Boolean({ description: 'true or false: whether only passes in which something failed' })),
      fromMs: optional(Type.Number({ description: 'a time on exchanges, ms' })),
      toMs: optional(Type.Number({ description: 'a time on exchanges, ms' })),
    },
    errors: ['not-found', 'given-back'],
  },
  histograms: {
    role: 'viewer',
    about: 'Distributions of a run as a histogram log.',
    file: 'text/plain; charset=utf-8',
    errors: ['not-found', 'given-back'],
  },
  runHar: {
    role: 'viewer',
    about: 'Exchanges that were kept as HAR 1.2: the slowest 2,000 at most.',
    query: KEPT_QUERY,
    file: 'application/json',
    errors: ['not-found', 'given-back'],
  },
  runJunit: {
    role: 'viewer',
    about: 'What the objectives of a run say, as JUnit XML.',
    file: 'application/xml; charset=utf-8',
    errors: ['not-found', 'not-judged'],
  },
  runMetrics: {
    role: 'viewer',
    about: 'All figures of a run as OpenMetrics text, also while it loads: for a metrics server to read.',
    file: OPEN_METRICS,
    errors: ['not-found', 'given-back'],
  },
  figuresCsv: {
    role: 'viewer',
    about: 'Figures of a window of a run as CSV, in rows by one thing or two.',
    query: {
      rows: optional(text('what rows are told apart by: one or two of step, group, journey, location, network, client, machine, with a comma between')),
      from: optional(runSecond),
      to: optional(runSecond),
    },
    file: 'text/csv; charset=utf-8',
    errors: ['not-found', 'window', 'given-back', 'folded', 'address'],
  },
  secondsCsv: {
    role: 'viewer',
    about: 'Every second of a run by steps, groups, journeys, locations, networks, clients or machines, as CSV.',
    query: { by: optional(bodies.dimension) },
    file: 'text/csv; charset=utf-8',
    errors: ['not-found', 'given-back', 'folded'],
  },
  secondsJsonLines: {
    role: 'viewer',
    about: 'The same as JSON Lines.',
    query: { by: optional(bodies.dimension) },
    file: 'application/x-ndjson',
    errors: ['not-found', 'given-back', 'folded'],
  },
  sending: { role: 'operator', about: 'How word of runs goes out: mail server, hooks, figures, and what was sent.', errors: [] },
  setMailServer: {
    role: 'keeper',
    about: 'Says which server mails go through; a password that is left out stays.',
    body: bodies.MAIL_SERVER,
    errors: ['sealed'],
  },
  removeMailServer: { role: 'keeper', about: 'Forgets the mail server.', body: bodies.NOTHING, errors: [] },
  tryMail: {
    role: 'keeper',
    about: 'Sends a mail of no run, at once.',
    body: bodies.MAIL_TO_ONE,
    errors: ['not-sent'],
  },
  newHook: {
    role: 'keeper',
    about: 'Has a program told of runs at an address; answers the key it is signed with, once.',
    body: bodies.NEW_HOOK,
    errors: ['in-use', 'sealed'],
  },
  removeHook: { role: 'keeper', about: 'Has a program told no more.', body: bodies.NOTHING, errors: ['not-found'] },
  tryHook: {
    role: 'keeper',
    about: 'Sends a program something of no run, at once.',
    body: bodies.NOTHING,
    errors: ['not-found', 'not-sent'],
  },
  setFigureGoal: {
    role: 'keeper',
    about: 'Says where figures of runs are sent while they load; an authorization that is left out stays.',
    body: bodies.FIGURE_GOAL,
    errors: ['sealed'],
  },
  removeFigureGoal: { role: 'keeper', about: 'Sends figures of runs nowhere.', body: bodies.NOTHING, errors: [] },
  tryFigureGoal: {
    role: 'keeper',
    about: 'Sends a figure of no run, at once.',
    body: bodies.NOTHING,
    errors: ['not-found', 'not-sent'],
  },
  sendAgain: {
    role: 'operator',
    about: 'Tries at once what was not sent yet, or was given up.',
    body: bodies.NOTHING,
    errors: ['not-found'],
  },
  mailReport: {
    role: 'operator',
    about: 'Mails the report of a run.',
    body: bodies.MAIL_TO,
    errors: ['not-found', 'mail'],
  },
  sharedLinks: { role: 'viewer', about: 'Links that were made, what each opens, and how often it was opened.', errors: [] },
  share: {
    role: 'operator',
    about: 'Makes a link by which somebody without an account sees one thing: a run, its report, or runs beside each other.',
    body: bodies.SHARE,
    errors: ['not-found'],
  },
  endLink: {
    role: 'operator',
    about: 'Takes a link back.',
    body: bodies.NOTHING,
    errors: ['not-found'],
  },
  shared: {
    role: 'viewer',
    by: ['link'],
    about: 'What a link opens, for anyone who comes with it; counted.',
    errors: ['not-found'],
  },
  sharedWall: {
    role: 'viewer',
    by: ['link'],
    about: 'Its run as it stands.',
    errors: ['not-found', 'given-back'],
  },
  sharedHtml: {
    role: 'viewer',
    by: ['link'],
    about: 'Its report as one HTML file.',
    file: 'text/html; charset=utf-8',
    errors: ['not-found', 'not-judged', 'report', 'compare', 'given-back'],
  },
  sharedPdf: {
    role: 'viewer',
    by: ['link'],
    about: 'Its report as a PDF.',
    file: 'application/pdf',
    errors: ['not-found', 'not-judged', 'report', 'compare', 'given-back'],
  },
  sharedHar: {
    role: 'viewer',
    by: ['link'],
    about: 'Exchanges of its run that were kept (HAR 1.2), where the link shows them.',
    file: 'application/json; charset=utf-8',
    errors: ['not-found', 'given-back'],
  },

  report: {
    role: 'viewer',
    about: 'What the report of a run is to show, and the templates that are kept.',
    errors: ['not-found'],
  },
  setReport: {
    role: 'operator',
    about: 'Keeps what the report of a run is to show; left out: as usual again.',
    body: bodies.SET_REPORT,
    errors: ['not-found', 'window', 'report'],
  },
  reportHtml: {
    role: 'viewer',
    about: 'The report of a run as one page of HTML that needs nothing else.',
    query: { template: reportTemplate },
    file: 'text/html; charset=utf-8',
    errors: ['not-found', 'not-judged', 'window', 'report'],
  },
  reportPdf: {
    role: 'viewer',
    about: 'The same as PDF.',
    query: { template: reportTemplate },
    file: 'application/pdf',
    errors: ['not-found', 'not-judged', 'window', 'report'],
  },
  reportMarkdown: {
    role: 'viewer',
    about: 'The same as Markdown.',
    query: { template: reportTemplate },
    file: 'text/markdown; charset=utf-8',
    errors: ['not-found', 'not-judged', 'window', 'report'],
  },
  saveReportTemplate: {
    role: 'operator',
    about: 'Keeps what reports are to show by a name; a usual one is how reports are made of runs for which nobody chose.',
    body: bodies.SAVE_REPORT_TEMPLATE,
    errors: ['window', 'report'],
  },
  removeReportTemplate: {
    role: 'operator',
    about: 'Forgets a report template.',
    body: bodies.NOTHING,
    errors: ['not-found'],
  },
  setBaseline: {
    role: 'operator',
    about: 'Holds later runs of its plan against a run, which is kept for good; or does so no more.',
    body: bodies.SET_BASELINE,
    errors: ['not-found', 'not-judged', 'compare', 'given-back'],
  },
  keepRun: {
    role: 'operator',
    about: 'Keeps what a run measured for good, or no longer.',
    body: bodies.KEEP_RUN,
    errors: ['not-found'],
  },
  foldRun: {
    role: 'operator',
    about: 'Folds what the generators of a run sent into its sums, for good: machines are told apart in whole stretches then.',
    body: bodies.NOTHING,
    errors: ['not-found', 'fold', 'given-back'],
  },
  describeRun: {
    role: 'operator',
    about: 'Gives a run a name, notes and tags, says which build was under load, or pins it; nothing is measured by them.',
    body: bodies.DESCRIBE_RUN,
    errors: ['not-found'],
  },
  leftovers: { role: 'viewer', about: 'Files that commands left on their generators.', errors: ['not-found', 'given-back'] },
  leftover: {
    role: 'viewer',
    about: 'One of these files.',
    query: { group: text('the letter of a group'), name: text('the name of a file') },
    file: 'application/octet-stream',
    errors: ['not-found', 'given-back'],
  },

  me: { role: 'anyone', about: 'Who asks, and whether anybody can sign in yet.', errors: [] },
  signIn: {
    role: 'anyone',
    about: 'Signs in: a cookie comes with the answer.',
    body: bodies.SIGN_IN,
    errors: ['password', 'too-often'],
  },
  goElsewhere: {
    role: 'anyone',
    about: 'Leads to another service to sign in with.',
    query: { to: optional(text('a path to go to afterwards')) },
    leads: true,
    errors: [],
  },
  comeBack: {
    role: 'anyone',
    about: 'Where the other service leads back to: whom it vouches for is signed in.',
    leads: true,
    errors: [],
  },
  signOut: { role: 'viewer', by: ['person'], about: 'Ends the session that asks.', body: bodies.NOTHING, errors: [] },
  setPassword: {
    role: 'viewer', by: ['person'],
    about: 'Sets one’s own password; other browsers are signed out.',
    body: bodies.SET_PASSWORD,
    errors: ['password', 'too-often'],
  },
  sessions: { role: 'viewer', by: ['person'], about: 'Where one is signed in.', errors: [] },
  endSession: { role: 'viewer', by: ['person'], about: 'Signs a browser of one’s own out.', body: bodies.NOTHING, errors: ['not-found'] },
  tokens: { role: 'viewer', by: ['person'], about: 'One’s API tokens, by their names.', errors: [] },
  makeToken: { role: 'viewer', by: ['person'], about: 'Makes an API token, which is shown once.', body: bodies.MAKE_TOKEN, errors: [] },
  endToken: { role: 'viewer', by: ['person'], about: 'Takes a token of one’s own back.', body: bodies.NOTHING, errors: ['not-found'] },
  people: { role: 'keeper', about: 'Who may come in.', errors: [] },
  addPerson: {
    role: 'keeper',
    about: 'Lets somebody in. The first must be a keeper, and is signed in at once.',
    body: bodies.ADD_PERSON,
    errors: ['person', 'password'],
  },
  changePerson: {
    role: 'keeper',
    about: 'Gives somebody another role, lets them in no more, or again.',
    body: bodies.CHANGE_PERSON,
    errors: ['not-found', 'last-keeper'],
  },
  resetPassword: {
    role: 'keeper',
    about: 'Gives somebody a new password; they are signed out everywhere.',
    body: bodies.RESET_PASSWORD,
    errors: ['not-found', 'password'],
  },
  trail: {
    role: 'keeper',
    about: 'Who did what, when, from where; the latest first.',
    query: { before: optional(whole('the number of an entry')) },
    errors: [],
  },

  openApi: { role: 'anyone', about: 'This API as an OpenAPI 3.1 document.', file: 'application/json', errors: [] },
} as const satisfies Record<OperationId, Operation>

/** Errors that any operation can answer with, and those that come of how it is asked. */
export function errorsOf(id: OperationId): ErrorCode[] {
  const { query, body, errors, role }: Operation = OPERATIONS[id]
  return [
    ...new Set<ErrorCode>([
      ...errors,
      ...(addressParts(id).path.includes('{') || query ? (['address'] as const) : []),
      ...(body ? (['content-type', 'origin', 'too-large'] as const) : []),
      ...(body && body !== 'bytes' ? (['form', 'json'] as const) : []),
      // A viewer may see everything, but not every bearer is for everything.
      ...(role === 'anyone' ? [] : (['sign-in', 'role'] as const)),
      'host',
      'forwarded',
      'fault',
    ]),
  ]
}

/** Names in the braces of a path. */
type NamesIn<Path> = Path extends `${string}{${infer Name}}${infer Rest}` ? Name | NamesIn<Rest> : never
type QueryOf<O> = O extends { query: infer Q extends TProperties } ? Static<TObject<Q>> : unknown
type PathOf<Path> = {
  [Name in NamesIn<Path> & keyof typeof PATH_PARAMETERS]: Static<(typeof PATH_PARAMETERS)[Name]>
}

/** What stands in the address of an operation: names of its path, and its query. */
export type AddressOf<K extends OperationId> = PathOf<(typeof ADDRESSES)[K]> & QueryOf<(typeof OPERATIONS)[K]>

/** What is sent with it; `never`: nothing, or bytes. */
export type BodyOf<K extends OperationId> = (typeof OPERATIONS)[K] extends { body: infer B extends TSchema }
  ? Static<B>
  : never

/** Operations that answer with JSON; the others with a file. */
export type JsonOperation = keyof Answers
