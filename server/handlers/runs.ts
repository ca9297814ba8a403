import { Readable } from 'node:stream'
import { USUAL_POINTS } from '../../control/target/target-view'
import { coordinator } from '../../control/meeting-place'
import { MOST_IN_HAR } from '../../control/run/runs'
import type { Handlers } from '../handler'
import { done } from './done'

type RunOperation =
  | 'runs'
  | 'run'
  | 'again'
  | 'repeat'
  | 'goWith'
  | 'stopRun'
  | 'abortRun'
  | 'markRun'
  | 'wall'
  | 'seconds'
  | 'window'
  | 'slices'
  | 'distributions'
  | 'courses'
  | 'failures'
  | 'targetAccount'
  | 'threeWay'
  | 'compare'
  | 'compareCsv'
  | 'trend'
  | 'machineRecords'
  | 'machineCourse'
  | 'exemplars'
  | 'passes'
  | 'histograms'
  | 'runHar'
  | 'runJunit'
  | 'runMetrics'
  | 'figuresCsv'
  | 'secondsCsv'
  | 'secondsJsonLines'
  | 'setBaseline'
  | 'keepRun'
  | 'foldRun'
  | 'describeRun'
  | 'kept'
  | 'saveKeeping'
  | 'clearNow'
  | 'leftovers'
  | 'leftover'

const runsOf = () => coordinator().runs
const keepingOf = () => coordinator().keeping

/** Exemplars answered where nobody says how many, and at most. */
const USUAL_EXEMPLARS = 50
const MOST_EXEMPLARS = 200

/** Bins of a course where nobody says how many: as many as a screen is wide. */
const USUAL_BINS = 1200
/** Values of a line of the target's own series, at most. */
const MOST_POINTS = 5000

const atMost = (most: number) => Math.min(MOST_EXEMPLARS, Math.max(1, Math.floor(most)))
/** Numbers of runs, as they stand in an address. */
export const comparedRuns = <Wish extends { runs: string }>({ runs, ...wish }: Wish) => ({
  runs: listOf(runs).map(Number).filter(Number.isInteger),
  ...wish,
})
const listOf = (text = '') => text.split(',').filter(part => part !== '')

/** What is looked for among what was kept, as an address says it. */
interface KeptQuery {
  most?: number
  groups?: string
  locations?: string
  machines?: string
}

function kept<Q extends KeptQuery>({ most = USUAL_EXEMPLARS, groups, locations, machines, ...wanted }: Q) {
  return {
    ...wanted,
    ...(groups ? { groups: listOf(groups) } : {}),
    most: atMost(most),
    places: { locations: listOf(locations), machines: listOf(machines) },
  }
}

export const runs: Handlers<RunOperation> = {
  runs: ({ before }) => runsOf().lines(before),
  run: ({ run }) => runsOf().view(run),
  again: ({ run }) => coordinator().again(run),
  repeat: ({ run }) => coordinator().repeat(run),
  goWith: ({ run }) => done(runsOf().goWith(run)),
  stopRun: ({ run }, { reason }) => done(runsOf().stop(run, reason)),
  abortRun: ({ run }, { reason }) => done(runsOf().abort(run, reason)),
  markRun: ({ run }, { text }) => done(runsOf().mark(run, text)),
  wall: ({ run }) => coordinator().walls.of(run),
  seconds: ({ run, from, to, most }) => runsOf().seconds(run, from, to, most),
  window: ({ run, from, to }) => runsOf().window(run, from, to),
  slices: ({ run }, { fromS, toS, ...wish }) => runsOf().slices(run, fromS, toS, wish),
  distributions: ({ run }, { of, limitsMs }) => runsOf().distributions(run, of, limitsMs),
  courses: ({ run }, { most = USUAL_BINS, ...wish }) => runsOf().courses(run, { most, ...wish }),
  failures: ({ run }, { fromS, toS, only }) => runsOf().failures(run, fromS, toS, only),
  targetAccount: ({ run, since, series, most = USUAL_POINTS }) =>
    runsOf().targetAccount(run, {
      ...(since === undefined ? {} : { sinceS: since }),
      ...(series === undefined ? {} : { series: listOf(series) }),
      most: Math.max(2, Math.min(most, MOST_POINTS)),
    }),
  compare: wish => runsOf().compare(comparedRuns(wish)),
  compareCsv: async wish => ({
    content: await runsOf().comparedCsv(comparedRuns(wish)),
    name: `runs-${comparedRuns(wish).runs.join('-')}-compared.csv`,
  }),
  trend: ({ plan }) => runsOf().trend(plan),
  threeWay: ({ run }) => runsOf().threeWay(run),
  machineRecords: ({ run }) => runsOf().machineRecords(run),
  machineCourse: ({ run, generator, from, to }) => runsOf().machineCourse(run, generator, from, to),
  exemplars: ({ run, ...wanted }) => runsOf().exemplars(run, kept(wanted)),
  passes: ({ run, ...wanted }) => runsOf().passes(run, kept(wanted)),
  histograms: async ({ run }) => ({ content: await runsOf().histogramLog(run), name: `run-${run}.hlog` }),
  runHar: async ({ run, ...wanted }) => ({
    content: await runsOf().har(run, { ...kept(wanted), most: MOST_IN_HAR }),
    name: `run-${run}.har`,
  }),
  runJunit: ({ run }) => ({ content: runsOf().junit(run), name: `run-${run}-objectives.xml` }),
  runMetrics: async ({ run }) => ({ content: await runsOf().metrics(run) }),
  figuresCsv: async ({ run, rows = 'step', from, to }) => ({
    content: await runsOf().figuresCsv(run, rows, from, to),
    name: `run-${run}-figures-by-${rows.replace(',', '-and-')}.csv`,
  }),
  secondsCsv: ({ run, by = 'step' }) => ({
    content: Readable.from(runsOf().everySecond(run, { by, as: 'csv' })),
    name: `run-${run}-by-${by}.csv`,
  }),
  secondsJsonLines: ({ run, by = 'step' }) => ({
    content: Readable.from(runsOf().everySecond(run, { by, as: 'jsonLines' })),
    name: `run-${run}-by-${by}.jsonl`,
  }),
  setBaseline: ({ run }, { isBaseline }) => done(runsOf().setBaseline(run, isBaseline)),
  keepRun: ({ run }, { kept }) => done(keepingOf().keep(run, kept)),
  foldRun: ({ run }) => done(keepingOf().fold(run)),
  describeRun: ({ run }, about) => done(runsOf().describe(run, about)),
  kept: () => keepingOf().view(),
  saveKeeping: (_, { rules }) => {
    keepingOf().rules = rules
    return done(undefined)
  },
  clearNow: () => keepingOf().clear(),
  leftovers: ({ run }) => runsOf().leftovers(run),
  leftover: async ({ run, generator, group, name }) => ({
    content: await runsOf().leftover(run, generator, group, name),
    name: name.split('/').pop() ?? 'file',
  }),
}
