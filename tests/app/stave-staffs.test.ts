/** A stave as text: read back as it was printed, whatever stands in its names, and as the plan asks at first. */
import { leastHeight, placesIn } from '../../app/components/stave/stave-geometry'
import { printStave, READY_SETS, readStave, usualStave } from '../../app/components/stave/stave-staffs'
import type { Named } from '../../core/result/staff'
import { journey, plan, runDocument, step } from '../build/plans'

const NAMED: Named = {
  step: [{ value: 'look/Look', label: 'Look' }, { value: 'look/Ask; then wait', label: 'Ask; then wait' }],
  group: [{ value: 'A', label: 'A Lookers' }],
  journey: [{ value: 'look', label: 'Looking' }],
  location: [{ value: 'REY', label: 'REY' }],
  network: [{ value: 'direct', label: 'none added' }],
  machine: [{ value: 'REY-1', label: 'REY-1' }],
}

it.each([
  'users; objective; objective by location; sent and failed',
  'users, low; p95, answered in, Look, by location, tall; share, failed, limit 0.5 %',
  'p50, p95, answered in, "Ask; then wait", low; present, users, by group',
])('%s', (text) => {
  expect(printStave(readStave(text, NAMED))).toBe(text)
})

it('what cannot be read of this run stays, and says why; the same twice is there once', () => {
  const read = readStave('p95, Gone; users; USERS; p95, Look; p95, answered in, Look', NAMED)
  expect(read.map(e => [e.key, e.problem !== undefined])).toEqual([
    ['p95, Gone', true],
    ['users', false],
    ['p95, answered in, Look', false],
  ])
})

it('ready sets can be read of any run', () => {
  for (const { staffs } of READY_SETS)
    expect(readStave(staffs, NAMED).filter(e => e.problem)).toEqual([])
})

it('at first there is a staff for every objective that one can show, with its own limit', () => {
  const document = runDocument({
    plan: plan({
      objectives: [
        { metric: 'p95', step: 'Look', atMost: 800 },
        { metric: 'failures', atMost: 0.005 },
        { metric: 'throughput', step: 'Look', atLeast: 40 },
        { metric: 'p99', atMost: 2000, withFailures: true },
      ],
    }),
    journeys: [journey({ round: [step({ name: 'Look' })] })],
  })
  const { id } = document.journeys[0]!
  const entries = usualStave(document, { ...NAMED, step: [{ value: `${id}/Look`, label: 'Look' }] })
  expect(printStave(entries)).toBe(
    'users; objective; objective by location; share, failed, limit 0.5 %, low; per second, right, Look, limit 40, low; sent and failed',
  )
})

it('staffs lie one below the other within their height, users with those who are off', () => {
  const entries = readStave('users; p95, tall; sent, low', NAMED)
  const places = placesIn(600, entries)
  expect(places.map(p => p.key)).toEqual(['users', 'offBy', 'p95, answered in', 'per second, sent'])
  let under = 24
  for (const { top, height } of places) {
    expect(top).toBeGreaterThanOrEqual(under)
    under = top + height
  }
  const last = places.at(-1)!
  expect(last.top + last.height).toBeLessThanOrEqual(600)
  expect(places[2]!.height).toBeGreaterThan(3 * places[3]!.height)
  expect(leastHeight(entries)).toBeLessThan(600)
})
