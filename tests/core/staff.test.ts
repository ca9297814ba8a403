/** Staffs as they are written and read: what is printed is read back the same, and what cannot be is said. */
import { seededRandom } from '../../core/random/seeded'
import { DIMENSIONS } from '../../core/result/slices'
import { MEASURES, printStaff, readStaff, splitsOf, statisticsOf, type NamedValues, type Staff } from '../../core/result/staff'

const NAMED: NamedValues = {
  step: [
    { value: 'j1/Enrol', label: 'Enrol' },
    { value: 'j1/Add, then "wait"', label: 'Add, then "wait"' },
    { value: 'j2/mean', label: 'mean' },
    { value: 'j2/by group', label: 'by group' },
  ],
  group: [{ value: 'A', label: 'A Students at home' }],
  journey: [{ value: 'j1', label: 'Enrol in modules' }],
  location: [{ value: 'OSA', label: 'OSA' }],
  network: [{ value: 'far', label: 'far satellite' }],
  client: [{ value: 'phone-app', label: 'phone app' }],
  machine: [{ value: 'OSA-1', label: 'OSA-1' }],
}

it.each([
  ['p95, answered in, Enrol, by location, limit 1.8 s', { statistics: ['p95'], measure: 'answered', only: { step: ['j1/Enrol'] }, split: 'location', limit: 1800 }],
  ['p50 · P95 · p99', { statistics: ['p50', 'p95', 'p99'], measure: 'answered' }],
  ['users, by group', { statistics: ['present'], measure: 'users', split: 'group' }],
  ['share, osa', { statistics: ['share'], measure: 'failed', only: { location: ['OSA'] } }],
  ['failed, by kind', { statistics: ['perSecond'], measure: 'failed', split: 'kind' }],
  ['tls, "A Students at home", j1', { statistics: ['p95'], measure: 'tls', only: { group: ['A'], journey: ['j1'] } }],
  ['mean, "mean"', { statistics: ['mean'], measure: 'answered', only: { step: ['j2/mean'] } }],
  ['share, limit 0.5 %', { statistics: ['share'], measure: 'failed', limit: 0.005 }],
  ['sent, limit 100', { statistics: ['perSecond'], measure: 'sent', limit: 100 }],
] as [string, Staff][])('%s', (text, staff) => {
  expect(readStaff(text, NAMED)).toEqual(staff)
})

it.each([
  ['', /Write for example/],
  ['by location', /Write for example/],
  ['p95, Enroll', /“Enroll” is no statistic, no measure/],
  ['p95, sent', /“sent” has per second and no “p95”/],
  ['p50, p95, by location', /are not split/],
  ['answered in, TLS', /Of one measure/],
  ['sent, by kind', /is not told apart by kind: by step/],
  ['users, Enrol', /Users are not known by step/],
  ['users, by machine', /by group, journey, location/],
  ['p95, limit soon', /“soon” is no time/],
  ['sent, limit many', /“many” is no number/],
])('“%s” is refused with what would be right', (text, problem) => {
  expect(readStaff(text, NAMED)).toMatch(problem)
})

it('whatever is printed is read back the same', () => {
  const random = seededRandom(7)
  const oneOf = <T>(of: readonly T[]) => of[Math.floor(random() * of.length)]!
  for (let n = 0; n < 500; n++) {
    const measure = oneOf(MEASURES)
    const can = statisticsOf(measure)
    const several = random() < 0.3 && can.length > 3 ? can.slice(0, 3) : [oneOf(can)]
    const splits = splitsOf({ statistics: [...several], measure })
    const dimensions = measure === 'users' ? (['group', 'journey', 'location'] as const) : DIMENSIONS
    const only = Object.fromEntries(
      dimensions
        .filter(() => random() < 0.4)
        .map(d => [d, [...new Set([oneOf(NAMED[d]).value, oneOf(NAMED[d]).value])]]),
    )
    const staff: Staff = {
      statistics: [...several],
      measure,
      ...(Object.keys(only).length > 0 ? { only } : {}),
      ...(random() < 0.5 && splits.length > 0 ? { split: oneOf(splits) } : {}),
      ...(random() < 0.5 ? { limit: several[0] === 'share' ? 0.125 : oneOf([80, 1800, 90_000]) } : {}),
    }
    expect(readStaff(printStaff(staff, NAMED), NAMED)).toEqual(staff)
  }
})
