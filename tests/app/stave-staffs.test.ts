/** A stave as text: read back as it was printed, whatever stands in its names, and as the plan asks at first. */
import { leastHeight, placesIn } from '../../app/components/stave/stave-geometry'
import { printStave, READY_SETS, readStave, usualStave } from '../../app/components/stave/stave-staffs'
import type { NamedValues } from '../../core/result/staff'
import { offeredChoice } from '../../app/components/target/offered-choice'
import { journey, plan, runDocument, step, target } from '../build/plans'

const NAMED: NamedValues = {
  step: [{ value: 'look/Look', label: 'Look' }, { value: 'look/Ask; then wait', label: 'Ask; then wait' }],
  group: [{ value: 'A', label: 'A Lookers' }],
  journey: [{ value: 'look', label: 'Looking' }],
  location: [{ value: 'REY', label: 'REY' }],
  network: [{ value: 'direct', label: 'none added' }],
  client: [{ value: 'phone-app', label: 'phone app' }],
  machine: [{ value: 'REY-1', label: 'REY-1' }],
}

it.each([
  'users; objective; objective by location; sent and failed',
  'users, low; p95, answered in, Look, by location, tall; share, failed, limit 0.5 %',
  'p50, p95, answered in, "Ask; then wait", low; present, users, by group',
  'target CPU; target queue, connections, low; users',
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

it('and one of the first series of the target’s own, where the plan has them read', () => {
  const series = ['CPU', 'connections', 'queue', 'memory'].map(name => ({ name, of: name, kind: 'gauge' as const }))
  const sources = [{ name: 'page', kind: 'metrics' as const, address: 'http://x', everyS: 1, series }]
  const document = runDocument({ target: target({ sources }), plan: plan({ objectives: [] }) })
  expect(usualStave(document, NAMED).at(-1)?.key).toBe('sent and failed')
  const asked = { ...document, plan: { ...document.plan, targetFigures: { beforeS: 30 } } }
  expect(usualStave(asked, NAMED).at(-1)).toMatchObject({
    key: 'target CPU, connections, queue',
    target: ['CPU', 'connections', 'queue'],
  })
})

it('what is chosen of an offered metric: by its type, under a name of its own', () => {
  const offer = (of: string, type: string, chosen: { name: string }[] = [], unit?: string) =>
    offeredChoice({ of, type, ...(unit ? { unit } : {}) }, { kind: 'metrics' }, chosen)
  expect(offer('portal_calls', 'counter')).toEqual({ name: 'portal calls', of: 'portal_calls', kind: 'count', unit: '/s' })
  expect(offer('took_seconds', 'histogram', [], 'seconds')).toMatchObject({ kind: 'p95', unit: 'seconds' })
  expect(offer('size', 'summary')).toMatchObject({ kind: 'mean' })
  // A query works out percentiles itself; what a server keeps of a histogram stands there as it is.
  expect(offeredChoice({ of: 'took_seconds_sum', type: 'histogram' }, { kind: 'server' }, [])).toMatchObject({ kind: 'gauge' })
  expect(offer('ns:load', 'gauge', [{ name: 'ns load' }])).toEqual({ name: 'ns load 2', of: 'ns:load', kind: 'gauge' })
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
