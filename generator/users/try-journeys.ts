/**
 * One user goes once through each journey, without pauses, by the same road as the load; every exchange is kept.
 * Requests carry the rehearsal's mark.
 */
import type { ExchangeRecord } from '../../core/journey/exchange-record'
import { DIRECT } from '../../core/network/profile'
import { clientsOf } from '../../core/plan/shares'
import type { RunDocument } from '../../core/run/document'
import { seriesOf } from '../../core/run/series'
import type { RehearsedStep } from '../../protocol/messages'
import type { Proxy } from '../exchange/proxy'
import type { HealthReader } from './health'
import { Load, type Supplies } from './load'
import { messageOf } from '../../core/values/thrown'

/** All journeys must be through by then, ms. */
const MOST_MS = 110_000

/** @param proxy connections go out through it @returns what was exchanged, and why the try ended early, if it did */
export async function tryJourneys(
  document: RunDocument,
  runId: string,
  supplies: Supplies,
  health: HealthReader,
  proxy?: Proxy,
): Promise<{ records: ExchangeRecord[], problem: string }> {
  const records: ExchangeRecord[] = []
  const series = seriesOf(document)
  // One user of the first group of each journey.
  const groups = document.plan.groups.filter((g, i, all) => all.findIndex(o => o.journeyId === g.journeyId) === i)
  const users = groups.flatMap((group) => {
    const index = document.plan.groups.indexOf(group)
    const firstSeries = series.findIndex(s => s.group === index)
    const { client } = clientsOf(group)[0]!
    const stays = [{ startMs: 0, stopMs: MOST_MS }]
    return firstSeries < 0 ? [] : [{ group: index, number: 1, firstSeries, network: DIRECT, client, stays }]
  })
  if (users.length === 0) return { records, problem: '' }
  try {
    await new Promise<void>((finished, failed) => {
      const load = new Load(
        {
          runId,
          document,
          slice: { users, arrivals: [] },
          supplies,
          incarnation: 0,
          worker: 0,
          leaveMs: 1000,
          health,
          trying: true,
          ...(proxy ? { proxy } : {}),
          onFrame: () => {
            /* a try is not counted */
          },
          onExemplar: record => records.push({ ...record, keptFor: 'try' }),
          onFinished: () => finished(),
        },
        performance.now(),
      )
      load.run()
      setTimeout(() => {
        load.abort()
        failed(new Error(`not over after ${MOST_MS / 1000} s`))
      }, MOST_MS).unref()
    })
    return { records: inOrder(records), problem: '' }
  }
  catch (error) {
    return { records: inOrder(records), problem: messageOf(error) }
  }
}

/** As they were sent: requests of a bundle end in any order. */
function inOrder(records: ExchangeRecord[]): ExchangeRecord[] {
  return records.sort((a, b) => a.beganAtMs - b.beganAtMs)
}

/** A try as the rehearsal tells it. */
export function rehearsedSteps(records: readonly ExchangeRecord[]): RehearsedStep[] {
  return records.map(r => ({
    journeyId: r.journeyId,
    step: r.step,
    ok: r.failure === undefined,
    status: r.answer?.status ?? 0,
    durationMs: r.timings.wholeMs,
    ...(r.failure === undefined ? {} : { problem: r.problem || r.failure }),
  }))
}
