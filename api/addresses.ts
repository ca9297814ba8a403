/**
 * Where each operation of the API is asked: its method and its path below `/api`. Names in braces stand for what an
 * operation is about; the rest of each operation is told in operations.ts.
 */
export const ADDRESSES = {
  board: 'GET /board',
  meter: 'GET /meter',

  plans: 'GET /plans',
  plan: 'GET /plans/{plan}',
  newPlan: 'POST /plans',
  savePlan: 'PUT /plans/{plan}',
  checkPlan: 'POST /plans/check',
  readPlan: 'POST /plans/read',
  clonePlan: 'POST /plans/{plan}/clone',
  archivePlan: 'POST /plans/{plan}/archive',
  planChanges: 'GET /plans/{plan}/changes',
  trend: 'GET /plans/{plan}/trend',
  planText: 'GET /plans/{plan}/text',
  startPlan: 'POST /plans/{plan}/start',

  journeys: 'GET /journeys',
  journey: 'GET /journeys/{journey}',
  newJourney: 'POST /journeys',
  saveJourney: 'PUT /journeys/{journey}',
  checkJourney: 'POST /journeys/check',
  readJourney: 'POST /journeys/read',
  tryJourney: 'POST /journeys/try',
  journeyText: 'GET /journeys/{journey}/text',
  removeJourney: 'POST /journeys/{journey}/remove',
  reviewHar: 'POST /imports/har',
  importHar: 'POST /imports/har-journey',
  importOpenApi: 'POST /imports/openapi',
  importAddresses: 'POST /imports/urls',

  upload: 'POST /files',
  feeds: 'GET /feeds',
  newFeed: 'POST /feeds',
  removeFeed: 'POST /feeds/{feed}/remove',

  targets: 'GET /targets',
  newTarget: 'POST /targets',
  saveTarget: 'PUT /targets/{target}',
  setApproval: 'PUT /targets/{target}/approval',
  trySource: 'POST /targets/{target}/sources/try',
  removeTarget: 'POST /targets/{target}/remove',
  sourceTokens: 'GET /targets/{target}/tokens',
  newSourceToken: 'POST /targets/{target}/tokens',
  endSourceToken: 'POST /targets/{target}/tokens/end',
  sendLines: 'POST /sent/lines',
  sendMetrics: 'POST /sent/v1/metrics',

  recogniseResults: 'POST /elsewhere/recognise',
  scanResults: 'POST /elsewhere/scan',
  importResults: 'POST /elsewhere/runs',
  readingTemplates: 'GET /elsewhere/templates',
  keepReadingTemplate: 'POST /elsewhere/templates',
  removeReadingTemplate: 'POST /elsewhere/templates/remove',
  openStreams: 'POST /elsewhere/streams',
  streams: 'GET /runs/{run}/streams',
  runArchive: 'GET /runs/{run}/archive',
  openArchive: 'POST /elsewhere/archives',
  tellLines: 'POST /told/lines',
  endTelling: 'POST /told/end',

  networks: 'GET /networks',
  saveNetwork: 'PUT /networks/{network}',
  removeNetwork: 'POST /networks/{network}/remove',
  clients: 'GET /clients',
  saveClient: 'PUT /clients/{client}',
  removeClient: 'POST /clients/{client}/remove',

  restore: 'POST /removed/{kind}/{removed}',

  fleet: 'GET /fleet',
  machinesFile: 'GET /fleet/machines.csv',
  machine: 'GET /machines/{machine}',
  extendLease: 'POST /machines/{machine}/extend',
  releaseMachine: 'POST /machines/{machine}/release',
  releaseIdle: 'POST /release',
  lookForStrays: 'POST /strays/look',
  releaseStray: 'POST /strays/{provider}/{ref}',
  rollCall: 'GET /roll-call',
  callRoll: 'POST /roll-call',
  costs: 'GET /costs',
  offers: 'GET /offers',
  rails: 'GET /rails',
  saveRails: 'PUT /rails',
  kept: 'GET /kept',
  saveKeeping: 'PUT /kept/rules',
  clearNow: 'POST /kept/clear',

  accounts: 'GET /accounts',
  saveAccount: 'PUT /accounts',
  removeAccount: 'POST /accounts/{account}/remove',
  hosts: 'GET /hosts',
  readHosts: 'POST /hosts/read',
  tryHosts: 'POST /hosts/try',
  acceptHostKeys: 'POST /hosts/accept-key',
  commandHosts: 'POST /hosts/command',
  commandFile: 'GET /hosts/commands/{command}',
  saveSite: 'PUT /hosts/sites',
  removeSite: 'POST /hosts/sites/{site}/remove',
  saveKey: 'PUT /hosts/keys',
  removeKey: 'POST /hosts/keys/{key}/remove',
  invitations: 'GET /invitations',
  invite: 'POST /invitations',
  withdrawInvitation: 'POST /invitations/{invitation}/withdraw',

  capacities: 'GET /calibrations',
  capacity: 'GET /capacities/{capacity}',
  capacitiesFile: 'GET /capacities/file.json',
  takeCapacities: 'POST /capacities',
  setCapacity: 'POST /capacities/by-hand',
  refineCapacity: 'POST /capacities/refine',
  dropCapacity: 'POST /capacities/{capacity}/drop',
  calibrate: 'POST /calibrations',
  calibration: 'GET /calibrations/{calibration}',
  stopCalibration: 'POST /calibrations/{calibration}/stop',

  runs: 'GET /runs',
  compare: 'GET /compare',
  compareHtml: 'GET /compare/report.html',
  comparePdf: 'GET /compare/report.pdf',
  compareMarkdown: 'GET /compare/report.md',
  compareCsv: 'GET /compare/figures.csv',
  run: 'GET /runs/{run}',
  again: 'GET /runs/{run}/again',
  repeat: 'POST /runs/{run}/again',
  goWith: 'POST /runs/{run}/go',
  stopRun: 'POST /runs/{run}/stop',
  abortRun: 'POST /runs/{run}/abort',
  markRun: 'POST /runs/{run}/mark',
  wall: 'GET /runs/{run}/wall',
  seconds: 'GET /runs/{run}/seconds',
  window: 'GET /runs/{run}/window',
  slices: 'POST /runs/{run}/slices',
  distributions: 'POST /runs/{run}/distributions',
  courses: 'POST /runs/{run}/courses',
  failures: 'POST /runs/{run}/failures',
  targetAccount: 'GET /runs/{run}/target',
  threeWay: 'GET /runs/{run}/three-way',
  machineRecords: 'GET /runs/{run}/machines',
  machineCourse: 'GET /runs/{run}/machines/{generator}',
  exemplars: 'GET /runs/{run}/exemplars',
  passes: 'GET /runs/{run}/passes',
  histograms: 'GET /runs/{run}/histograms',
  runHar: 'GET /runs/{run}/exchanges.har',
  runJunit: 'GET /runs/{run}/objectives.xml',
  runMetrics: 'GET /runs/{run}/metrics',
  figuresCsv: 'GET /runs/{run}/figures.csv',
  secondsCsv: 'GET /runs/{run}/seconds.csv',
  secondsJsonLines: 'GET /runs/{run}/seconds.jsonl',
  sending: 'GET /sending',
  setMailServer: 'PUT /sending/mail',
  removeMailServer: 'POST /sending/mail/remove',
  tryMail: 'POST /sending/mail/try',
  newHook: 'POST /sending/hooks',
  removeHook: 'POST /sending/hooks/{hook}/remove',
  tryHook: 'POST /sending/hooks/{hook}/try',
  setFigureGoal: 'PUT /sending/figures',
  removeFigureGoal: 'POST /sending/figures/remove',
  tryFigureGoal: 'POST /sending/figures/try',
  sendAgain: 'POST /sending/{dispatch}/again',
  mailReport: 'POST /runs/{run}/report/mail',
  sharedLinks: 'GET /links',
  share: 'POST /links',
  endLink: 'POST /links/{link}/end',
  shared: 'GET /shared',
  sharedWall: 'GET /shared/wall',
  sharedHtml: 'GET /shared/report.html',
  sharedPdf: 'GET /shared/report.pdf',
  sharedHar: 'GET /shared/exchanges.har',

  report: 'GET /runs/{run}/report',
  setReport: 'PUT /runs/{run}/report',
  reportHtml: 'GET /runs/{run}/report.html',
  reportPdf: 'GET /runs/{run}/report.pdf',
  reportMarkdown: 'GET /runs/{run}/report.md',
  saveReportTemplate: 'PUT /report-templates/{template}',
  removeReportTemplate: 'POST /report-templates/{template}/remove',
  setBaseline: 'PUT /runs/{run}/baseline',
  keepRun: 'PUT /runs/{run}/kept',
  foldRun: 'POST /runs/{run}/fold',
  describeRun: 'PUT /runs/{run}/about',
  leftovers: 'GET /runs/{run}/leftovers',
  leftover: 'GET /runs/{run}/leftovers/{generator}',

  me: 'GET /me',
  signIn: 'POST /me/sign-in',
  goElsewhere: 'GET /me/elsewhere',
  comeBack: 'GET /me/elsewhere/back',
  signOut: 'POST /me/sign-out',
  setPassword: 'PUT /me/password',
  sessions: 'GET /me/sessions',
  endSession: 'POST /me/sessions/{session}/end',
  tokens: 'GET /me/tokens',
  makeToken: 'POST /me/tokens',
  endToken: 'POST /me/tokens/{token}/end',
  people: 'GET /people',
  addPerson: 'POST /people',
  changePerson: 'PUT /people/{person}',
  resetPassword: 'PUT /people/{person}/password',
  trail: 'GET /trail',

  openApi: 'GET /openapi.json',
} as const

export type OperationId = keyof typeof ADDRESSES

type Value = string | number | boolean

/** Method and path of an operation. */
export function addressParts(id: OperationId): { method: 'GET' | 'POST' | 'PUT', path: string } {
  // Every address is written so.
  const [method, path] = ADDRESSES[id].split(' ') as ['GET' | 'POST' | 'PUT', string]
  return { method, path }
}

/**
 * An operation's address from `/api` on.
 * @param at values of the names in its path; what remains is its query, without what is undefined
 */
export function hrefTo(id: OperationId, at: Readonly<Record<string, Value | undefined>> = {}): string {
  const left = new Map(Object.entries(at))
  const path = addressParts(id).path.replace(/\{(\w+)\}/g, (_, name: string) => {
    const value = left.get(name)
    left.delete(name)
    return encodeURIComponent(String(value))
  })
  const query = new URLSearchParams()
  for (const [name, value] of left) if (value !== undefined) query.set(name, String(value))
  return `/api${path}${query.size > 0 ? `?${query.toString()}` : ''}`
}
