/** What is told live: lines become seconds, a batch counts once, and what is not of the run is refused. */
import { join } from 'node:path'
import { RunMerge } from '../../control/ingest/run-merge'
import { ToldLive } from '../../control/ingest/told-live'
import { readRun, windowFigures } from '../../control/ingest/run-reader'
import { claimedDocument } from '../../core/elsewhere/claimed-document'
import type { RunDocument } from '../../core/run/document'
import { ownFolder } from '../build/folder'

const folder = ownFolder()
const START = 1_760_000_000_000
const document = claimedDocument({
  name: 'told', steps: [], lengthS: 60, peakUsers: 0, goesOn: true,
  senders: ['north', 'south'].map(place => ({ name: place, place, how: 'stream' as const })),
})
const generators = document.claimed!.senders.map(({ name, location }) => ({ machineId: '', name, location }))
let count = 0
function opened(path = join(folder, `told-${++count}.db`), of: RunDocument = document) {
  const merge = new RunMerge(path, of, generators)
  return { path, merge, live: new ToldLive(merge, START, ++count) }
}
const line = (over: object = {}) => ({ step: 'Look', duration: 100, ok: true, time: START + 1500, user: 'u1', ...over })
interface Over {
  sender?: number
  batch?: number
  at?: number
  sentAt?: number
}
function tell(live: ToldLive, lines: object[], { sender = 0, batch, at = START + 2000, sentAt }: Over = {}) {
  return live.take({
    sender, bytes: new TextEncoder().encode(lines.map(l => JSON.stringify(l)).join('\n')), startAt: START, receivedAt: at,
    ...(batch === undefined ? {} : { batch }), ...(sentAt === undefined ? {} : { sentAt }),
  })
}
const total = (path: string, of: RunDocument) => readRun(path, run => windowFigures(of, run, 0, 1000, {}).total)

it('is in its second within two, and a step that comes up later keeps what was there', () => {
  const { path, merge, live } = opened()
  tell(live, [line(), line({ user: 'u2', time: START + 1900 })])
  const grown = live.cut(START + 2500)!
  merge.flush()
  expect(merge.seconds().find(s => s.second === 1)).toMatchObject({ started: 2, right: 2, usersByLocation: [2, 0] })
  expect(grown.claimed!.series).toEqual([[0, 0]])
  tell(live, [line({ step: 'Ask', time: START + 3100 }), line({ time: START + 3200 })], { sender: 1, at: START + 3300 })
  live.cut(START + 4100)
  merge.flush()
  expect(merge.asItIs.claimed!.series).toEqual([[0, 0], [1, 1], [1, 0]])
  live.cut(START + 5000, true)
  const all = merge.asItIs
  merge.settle()
  merge.close()
  expect(total(path, all)).toMatchObject({ started: 4, right: 4 })
})

it('a batch that comes again is not counted again, also after a restart', () => {
  const first = opened()
  expect(tell(first.live, [line()], { batch: 1 })).toEqual({ taken: 1, faults: [], faultCount: 0 })
  expect(tell(first.live, [line()], { batch: 1 })).toEqual({ taken: 0, again: true, faults: [], faultCount: 0 })
  first.live.cut(START + 2500)
  first.merge.flush()
  // Told, and not written down: it is told again.
  tell(first.live, [line({ time: START + 2600 })], { batch: 2 })
  first.merge.close()
  const again = opened(first.path)
  expect(again.merge.asItIs.claimed!.series).toEqual([[0, 0]])
  expect(tell(again.live, [line()], { batch: 1 })).toMatchObject({ again: true })
  expect(tell(again.live, [line({ time: START + 2600 })], { batch: 2 })).toMatchObject({ taken: 1 })
  again.live.cut(START + 4000, true)
  again.merge.settle()
  expect(again.merge.ledger(new Map())).toMatchObject({ balanced: true, merged: { started: 2 } })
  again.merge.close()
  expect(total(first.path, again.merge.asItIs)).toMatchObject({ started: 2 })
})

it('lines that are none, or of another time, are told, and the others count', () => {
  const { live, merge } = opened()
  const taken = tell(live, [line(), { step: 'x' }, line({ time: START + 60_000 }), line({ time: START - 60_000 }), line({ ok: 'yes' })])
  expect(taken).toEqual({
    taken: 1, faultCount: 4,
    faults: [
      { line: 2, sentence: '“duration” is no number of milliseconds' },
      { line: 3, sentence: 'it ended 58 s ahead of the clock here: send sentAt with it' },
      { line: 4, sentence: 'it ended 60 s before the run began: send sentAt with it' },
      { line: 5, sentence: '“ok” is neither true nor false' },
    ],
  })
  merge.close()
})

it('what follows ten thousand lines that are none is not read, and is counted with them', () => {
  const { live, merge } = opened()
  const none = Array.from({ length: 10_000 }, () => ({}))
  expect(tell(live, [line(), ...none, line(), line()])).toMatchObject({ taken: 1, faultCount: 10_002 })
  merge.close()
})

it('a clock that is an hour ahead is put right by what it says when it sends', () => {
  const { live, merge } = opened()
  const ahead = 3_600_000
  const taken = tell(live, [line({ time: START + 1500 + ahead })], { sentAt: START + 1990 + ahead })
  expect(taken).toMatchObject({ taken: 1 })
  live.cut(START + 2500)
  merge.flush()
  expect(merge.seconds().find(s => s.started > 0)!.second).toBe(1)
  merge.close()
})

it('is as long as it turned out to be, with as many users, once the last word is said', () => {
  const { live, merge } = opened()
  tell(live, [line({ users: 40, time: START + 10_000 })], { at: START + 10_500 })
  expect(live.cut(START + 11_200)!.plan.groups[0]!.profile.segments.at(-1)).toEqual({ to: 40, overMs: 60_000 })
  const last = live.cut(START + 12_000, true)!
  expect(last.plan.groups[0]!.profile.segments.at(-1)).toEqual({ to: 40, overMs: 11_000 })
  expect(last.claimed!.goesOn).toBeUndefined()
  merge.close()
})
