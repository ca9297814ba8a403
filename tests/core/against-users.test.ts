/** A statistic against users: levels with intervals by blocks, and dots for every second outside of them. */
import { seededRandom } from '../../core/random/seeded'
import { dotsOf, LEAST_BLOCKS, pointOf } from '../../core/result/against-users'

it('dots are seconds outside of levels in which both were told', () => {
  expect(dotsOf([1, 2, null, 4, 5], [10, 20, 30, null, 50], bin => bin !== 1)).toEqual([
    { users: 1, value: 10 },
    { users: 5, value: 50 },
  ])
})

it('a level with too few blocks has a value and no interval', () => {
  const blocks = Array.from({ length: LEAST_BLOCKS - 1 }, () => 5)
  expect(pointOf({ fromS: 0, toS: 30 }, 40, 5, [...blocks, null])).toEqual({ fromS: 0, toS: 30, users: 40, value: 5 })
})

/** Of 2,000 intervals a binomial of p 0.95 stays within three standard deviations, 1.5 points. */
it('intervals hold the mean of what they were drawn from in 95 of 100', () => {
  const random = seededRandom(11)
  const normal = () => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random())
  let held = 0
  for (let n = 0; n < 2000; n++) {
    const blocks = Array.from({ length: 6 }, () => 100 + 8 * normal())
    const mean = blocks.reduce((a, b) => a + b, 0) / 6
    const { value, halfWidth } = pointOf({ fromS: 0, toS: 60 }, 10, mean, blocks)
    if (Math.abs(value - 100) <= halfWidth!) held++
  }
  expect(held / 2000).toBeGreaterThan(0.935)
  expect(held / 2000).toBeLessThan(0.965)
})
