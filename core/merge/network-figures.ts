/** Whether users felt the network they were meant to: connect times as measured, against what the profile promises. */
import { figuresOf, type Figures } from './figures'
import { SeriesSum } from './series-sum'
import { feltRttMs } from '../network/expected'
import { DIRECT } from '../network/profile'
import type { RunDocument } from '../run/document'
import { isCounted, seriesOf } from '../run/series'

export interface NetworkFigures {
  location: string
  /** Id of the profile; `direct` where nothing was added. */
  network: string
  name: string
  figures: Figures
  /** Per step, bundle and span. */
  steps: { journeyId: string, step: string, figures: Figures }[]
  /** Median connect time the profile promises, ms: one felt round trip, under TLS two. Undefined for `direct`. */
  expectedConnectMs: number | undefined
}

/**
 * @param pathMs round trip of the real path per location; where it is not known, users of the same location without a
 * profile tell it, else none is assumed
 */
export function expectedConnects(
  document: RunDocument,
  sums: ReadonlyMap<number, SeriesSum>,
  pathMs: Readonly<Record<string, number>>,
): NetworkFigures[] {
  const series = seriesOf(document)
  const trips = document.target.baseUrl.startsWith('https:') ? 2 : 1
  const cells = new Map<
    string,
    {
      location: string
      network: string
      whole: SeriesSum
      steps: Map<string, { journeyId: string, step: string, sum: SeriesSum }>
    }
  >()
  for (const of of series) {
    const location = document.plan.locations[of.location]!.code
    const key = `${location} ${of.network}`
    if (!cells.has(key)) cells.set(key, { location, network: of.network, whole: new SeriesSum(), steps: new Map() })
  }
  for (const [number, sum] of sums) {
    const of = series[number]!
    // Made above for each series.
    const cell = cells.get(`${document.plan.locations[of.location]!.code} ${of.network}`)!
    const key = `${of.journeyId}/${of.stepName}`
    let step = cell.steps.get(key)
    if (!step) cell.steps.set(key, (step = { journeyId: of.journeyId, step: of.stepName, sum: new SeriesSum() }))
    step.sum.add(sum)
    if (isCounted(of)) cell.whole.add(sum)
  }
  const found = [...cells.values()].map(({ location, network, whole, steps }) => ({
    location,
    network,
    figures: figuresOf(whole),
    steps: [...steps.values()].map(({ sum, ...of }) => ({ ...of, figures: figuresOf(sum) })),
  }))
  return found.map((cell): NetworkFigures => {
    const profile = document.networks?.find(n => n.id === cell.network)
    const directMs = found.find(f => f.location === cell.location && f.network === DIRECT)?.figures.connectP50Ms
    const realMs = pathMs[cell.location] ?? (directMs === undefined ? 0 : directMs / trips)
    return {
      ...cell,
      name: profile?.name ?? 'none added',
      expectedConnectMs: profile && feltRttMs(profile, realMs) * trips,
    }
  })
}

/** A median beyond this from what was promised is no rounding of timers, ms and share. */
const OFF_MS = 8
const OFF_SHARE = 0.1
const LEAST_CONNECTS = 20

/** Networks whose users felt something else than they were meant to. */
export function notAchieved(networks: readonly NetworkFigures[]): NetworkFigures[] {
  return networks.filter(
    ({ expectedConnectMs: expected, figures: { connectP50Ms: measured, connects } }) =>
      expected !== undefined &&
      measured !== undefined &&
      connects >= LEAST_CONNECTS &&
      Math.abs(measured - expected) > Math.max(OFF_MS, expected * OFF_SHARE),
  )
}
