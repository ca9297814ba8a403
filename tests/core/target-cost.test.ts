/** What a run cost its target: areas above rest, by hand. */
import { targetCost, type CostedSeries } from '../../core/target/cost'

const at = (...values: [number, number][]) => values.map(([atS, value]) => ({ atS, value }))
const replicas: CostedSeries = { standsFor: 'replicas', lines: [at([-20, 4], [-10, 4], [0, 4], [60, 6], [180, 6], [240, 4], [300, 4])] }
const calls: CostedSeries = { standsFor: 'calls', lines: [at([-5, 10], [0, 12], [60, 100]), at([30, 5], [60, 40])] }

it('is what there was more of than at rest, and what was served, each at its price', () => {
  // Two more from 60 s to 240 s: 360 replica-seconds, a tenth of an hour.
  expect(targetCost({ perReplicaHour: 0.5, perCall: 0.001 }, [replicas, calls])).toEqual([
    { of: 'replicas', amount: expect.closeTo(0.1, 9), cost: expect.closeTo(0.05, 9) },
    { of: 'calls', amount: 88 + 40, cost: expect.closeTo(0.128, 9) },
  ])
})

it('takes memory by its unit, less where it fell below rest', () => {
  const memory = (unit: string, more: number): CostedSeries => ({
    standsFor: 'memory', unit, lines: [at([-2, 100], [-1, 100], [0, 100 + more], [10, 100 - more / 2], [20, 100])],
  })
  // 10 s at +1 GB, 10 s at −0.5 GB.
  expect(targetCost({ perGbSecond: 2 }, [memory('MB', 1000)])).toEqual([{ of: 'memory', amount: expect.closeTo(5, 9), cost: expect.closeTo(10, 9) }])
  expect(targetCost({ perGbSecond: 2 }, [memory('GiB', 1)])[0]!.amount).toBeCloseTo(5 * 1.073741824, 9)
  expect(targetCost({ perGbSecond: 2 }, [memory('pages', 1)])).toEqual([])
})

it('says nothing of what has no price, is not read, or was not read at rest', () => {
  expect(targetCost({}, [replicas, calls])).toEqual([])
  expect(targetCost({ perReplicaHour: 1 }, [calls])).toEqual([])
  expect(targetCost({ perReplicaHour: 1 }, [{ standsFor: 'replicas', lines: [at([10, 4], [20, 6], [30, 6])] }])[0]!.amount).toBe(0)
})

it('takes what a series itself tells the cost of an hour of, without a price', () => {
  const told: CostedSeries = { standsFor: 'costPerHour', lines: [at([-20, 10], [0, 10], [60, 16], [660, 10], [700, 10])] }
  // 600 s at 6 an hour more than at rest.
  expect(targetCost({}, [told])).toEqual([{ of: 'told', amount: expect.closeTo(1, 9), cost: expect.closeTo(1, 9) }])
})
