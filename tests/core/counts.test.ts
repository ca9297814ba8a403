/** Counts that are kept as they are few say the same as the histogram they were taken of. */
import { Counts } from '../../core/histogram/counts'
import { Histogram } from '../../core/histogram/histogram'
import { seededRandom } from '../../core/random/seeded'

function filled(seed: number, values: number): Histogram {
  const random = seededRandom(seed)
  const histogram = new Histogram()
  for (let i = 0; i < values; i++) histogram.record(Math.exp(random() * 20), 1 + Math.floor(random() * 3))
  return histogram
}

describe('counts of a histogram', () => {
  it('give it back, bucket by bucket, and its mean', () => {
    const histogram = filled(1, 500)
    const counts = Counts.of(histogram)
    const again = new Histogram()
    counts.addTo(again)
    expect(again.count).toBe(histogram.count)
    expect(counts.count).toBe(histogram.count)
    for (const share of [0.01, 0.5, 0.95, 1]) expect(again.percentileUs(share)).toBe(histogram.percentileUs(share))
    expect(counts.sumUs() / counts.count).toBeCloseTo(histogram.meanUs()!, 6)
    expect([...counts.indexes]).toEqual([...counts.indexes].sort((a, b) => a - b))
  })

  it('stay what they were when others are taken, or the histogram is emptied and filled again', () => {
    const histogram = filled(2, 50)
    const counts = Counts.of(histogram)
    const before = { indexes: [...counts.indexes], times: [...counts.times] }
    histogram.clear()
    expect(histogram.count).toBe(0)
    expect(histogram.percentileUs(0.5)).toBeUndefined()
    histogram.record(7)
    expect(histogram.percentileUs(0.5)).toBe(7)
    Counts.of(filled(3, 50))
    expect({ indexes: [...counts.indexes], times: [...counts.times] }).toEqual(before)
    expect(Counts.of(new Histogram())).toMatchObject({ count: 0 })
  })
})
