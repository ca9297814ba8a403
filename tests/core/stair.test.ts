import { stairAt } from '../../core/objectives/stair'
import { hill, plan } from '../build/plans'

/** Ten users from 10 s to 30 s; 20 more from 40 s to 60 s, while the ten stay. */
const two = plan({
  groups: [
    { letter: 'A', name: 'Early', journeyId: 'enrol', profile: hill(10, 10, 90, 10) },
    { letter: 'B', name: 'Late', journeyId: 'enrol', profile: { ...hill(20, 10, 20, 10), startDelayMs: 30_000 } },
  ],
})

it.each([
  [0, { isOn: false, number: 1, users: 10, fromS: 10, toS: 30 }],
  [10, { isOn: true, number: 1, users: 10 }],
  [29.9, { isOn: true, number: 1 }],
  [30, { isOn: false, number: 2, users: 30, fromS: 40, toS: 60 }],
  [59, { isOn: true, number: 2 }],
  [65, { isOn: false, number: 3, users: 10 }],
  [99, { isOn: true, number: 3, of: 3 }],
])('at %d s', (second, stair) => {
  expect(stairAt(two, second)).toMatchObject(stair)
})

it('behind the last level there is none', () => {
  expect(stairAt(two, 105)).toBeUndefined()
})
