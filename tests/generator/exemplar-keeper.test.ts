/** What is kept whole of exchanges and passes: by rule, bounded, and what the bound took is counted. */
import type { PassRecord } from '../../core/journey/pass-record'
import { boundedRule, ExemplarKeeper } from '../../generator/journey/exemplar-keeper'
import type { ExemplarRule } from '../../core/plan/document'

const RULE: ExemplarRule = { failuresPerSecond: 2, slowest: true, oneInPasses: 3, mostMb: 1 }
const STARTED_AT = 5000
const record = (keptFor: PassRecord['keptFor'], busyMs: number, exchanges = 1): PassRecord => ({
  keptFor,
  group: 'A',
  journeyId: 'look',
  network: 'direct',
  user: 1,
  pass: 1,
  beganAtMs: 0,
  endedAtMs: busyMs,
  busyMs,
  cut: false,
  exchanges: Array.from({ length: exchanges }, () => ({
    step: 'Look',
    beganAtMs: 0,
    endedAtMs: busyMs,
    status: 200,
    lookupMs: -1,
    connectMs: -1,
    tlsMs: -1,
    firstByteMs: 1,
    bytes: 0,
    bytesSent: 0,
  })),
})
function keeper(rule = RULE) {
  const kept: PassRecord[] = []
  return { kept, keeper: new ExemplarKeeper(rule, STARTED_AT, () => undefined, pass => kept.push(pass)) }
}

it('one pass in n is kept whatever comes of it', () => {
  const { keeper: k } = keeper()
  expect(Array.from({ length: 7 }, () => k.keepsPass())).toEqual([true, false, false, true, false, false, true])
  expect(k.wantsPass('look', STARTED_AT, 1, undefined, true, false)).toBe('pass')
  expect(k.wantsPass('look', STARTED_AT, 1, 'timeout', true, true)).toBe('pass')
})

it('of passes with a failure a number of each kind are kept a second', () => {
  const { keeper: k } = keeper()
  const failed = (at: number, kind: 'timeout' | 'status') => k.wantsPass('look', STARTED_AT + at, 1, kind, false, true)
  expect([failed(0, 'timeout'), failed(900, 'timeout'), failed(990, 'timeout')]).toEqual(['failure', 'failure', undefined])
  expect(failed(990, 'status')).toBe('failure')
  expect(failed(1000, 'timeout')).toBe('failure')
})

it('the slowest of each journey in ten seconds is kept, once they are over; one that was cut is none', () => {
  const { kept, keeper: k } = keeper()
  const end = (journeyId: string, at: number, busyMs: number, cut = false) => {
    const keptFor = k.wantsPass(journeyId, STARTED_AT + at, busyMs, undefined, false, cut)
    if (keptFor) k.takePass({ ...record(keptFor, busyMs), journeyId })
  }
  end('look', 1000, 30)
  end('look', 2000, 80)
  end('look', 3000, 50)
  end('ask', 4000, 5)
  end('ask', 5000, 500, true)
  expect(kept).toEqual([])
  end('look', 10_001, 1)
  expect(kept.map(p => [p.journeyId, p.busyMs])).toEqual([['look', 80], ['ask', 5]])
  k.finish()
  expect(kept.map(p => p.busyMs)).toEqual([80, 5, 1])
})

it('passes share the bound with exchanges, and what it took is counted', () => {
  const { kept, keeper: k } = keeper({ ...RULE, mostMb: 0.001 })
  for (let n = 0; n < 5; n++) k.takePass(record('pass', n, 2))
  // 600 bytes each of 1,048.
  expect([kept.length, k.dropped]).toEqual([1, 4])
})

it('without a rule nothing is kept', () => {
  const { keeper: k } = keeper({ failuresPerSecond: 0, slowest: false, oneInPasses: 0, mostMb: 1 })
  expect(k.keepsPass()).toBe(false)
  expect(k.wantsPass('look', STARTED_AT, 900, undefined, false, false)).toBeUndefined()
  expect(k.wantsPass('look', STARTED_AT, 900, 'timeout', false, false)).toBeUndefined()
})

it('what many generators keep together is bounded by the hour: a long run may keep more', () => {
  const hour = 3_600_000
  const wide = { ...RULE, mostMb: 16 }
  expect(boundedRule(wide, hour, 4).mostMb).toBe(16)
  expect(boundedRule(wide, hour / 60, 20).mostMb).toBe(10)
  expect(boundedRule(wide, hour, 200).mostMb).toBe(1)
  expect(boundedRule(wide, 8 * hour, 200).mostMb).toBe(8)
})
