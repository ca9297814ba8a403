/**
 * Outside check: hdr-histogram-js, an independent implementation of the published layout and log encodings.
 * Its reader must read ours and we its, value for value.
 */
import { deflateSync, inflateSync } from 'node:zlib'
import fc from 'fast-check'
import { build, decodeFromCompressedBase64, encodeIntoCompressedBase64 } from 'hdr-histogram-js'
import { Histogram, sumOf } from '../../core/histogram/histogram'
import {
  HIGHEST_TRACKABLE_US,
  INDEX_COUNT,
  highestValueOf,
  indexOfValue,
  lowestValueOf,
} from '../../core/histogram/layout'
import { fromPublishedV2, toPublishedV2 } from '../../core/histogram/published-encoding'
import { SecondRecorder } from '../../core/histogram/second-recorder'
import { ByteReader, ByteWriter, BytesError } from '../../core/histogram/varint'
import { SeriesSum, TIMINGS } from '../../core/merge/series-sum'

const reference = () =>
  build({
    lowestDiscernibleValue: 1,
    highestTrackableValue: HIGHEST_TRACKABLE_US,
    numberOfSignificantValueDigits: 3,
    bitBucketSize: 64,
    useWebAssembly: false,
  })
const durations = fc.array(
  fc.oneof(
    fc.integer({ min: 1, max: 5000 }),
    fc.integer({ min: 1, max: 5_000_000 }),
    fc.integer({ min: 1, max: HIGHEST_TRACKABLE_US }),
  ),
  { minLength: 1, maxLength: 300 },
)

function filled(values: number[]): Histogram {
  const h = new Histogram()
  for (const v of values) h.record(v)
  return h
}

function sparse(h: Histogram): Uint8Array {
  const w = new ByteWriter()
  h.writeSparse(w)
  return w.take()
}

describe('bucket layout', () => {
  it('has the bucket count of the reference and holds each bucket’s own bounds', () => {
    expect(INDEX_COUNT).toBe(23_552)
    for (let i = 0; i < INDEX_COUNT; i += 7) {
      if (lowestValueOf(i) > HIGHEST_TRACKABLE_US) break
      expect(indexOfValue(lowestValueOf(i))).toBe(i)
      if (highestValueOf(i) <= HIGHEST_TRACKABLE_US) expect(indexOfValue(highestValueOf(i))).toBe(i)
    }
  })

  it('keeps every value within 0.1 %', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: HIGHEST_TRACKABLE_US }), (v) => {
        const i = indexOfValue(v)
        return lowestValueOf(i) <= v && v <= highestValueOf(i) && (highestValueOf(i) - lowestValueOf(i)) / v < 0.001
      }),
    )
  })

  it('clamps what lies outside', () => {
    expect(indexOfValue(-5)).toBe(0)
    expect(indexOfValue(0.9)).toBe(0)
    expect(indexOfValue(9e12)).toBe(indexOfValue(HIGHEST_TRACKABLE_US))
    expect(indexOfValue(3_000_000_000.7)).toBe(indexOfValue(3_000_000_000))
  })
})

describe('percentiles', () => {
  it('equal those of the reference library, bit for bit', () => {
    fc.assert(
      fc.property(durations, (values) => {
        const ours = filled(values)
        const theirs = reference()
        for (const v of values) theirs.recordValue(v)
        for (const p of [0.01, 0.25, 0.5, 0.9, 0.95, 0.99, 1])
          expect(ours.percentileUs(p)).toBe(theirs.getValueAtPercentile(p * 100))
        expect(ours.count).toBe(theirs.totalCount)
        expect(ours.meanUs()!).toBeCloseTo(theirs.mean, 6)
      }),
    )
  })

  it('lie within 0.1 % of an exact sort, by nearest rank', () => {
    fc.assert(
      fc.property(durations, (values) => {
        const sorted = [...values].sort((a, b) => a - b)
        for (const p of [0.5, 0.95, 0.99]) {
          const exact = sorted[Math.max(1, Math.ceil(p * sorted.length - 1e-9)) - 1]!
          const ours = filled(values).percentileUs(p)!
          expect(ours).toBeGreaterThanOrEqual(exact)
          expect((ours - exact) / exact).toBeLessThanOrEqual(0.001)
        }
      }),
    )
  })

  it('of an empty histogram are not there, rather than 0', () => {
    expect(new Histogram().percentileUs(0.5)).toBeUndefined()
    expect(new Histogram().meanUs()).toBeUndefined()
    expect(new Histogram().maxUs()).toBeUndefined()
  })
})

describe('merging', () => {
  it('of any split equals the whole, bit for bit', () => {
    fc.assert(
      fc.property(durations, fc.integer({ min: 1, max: 9 }), (values, parts) => {
        const split = Array.from({ length: parts }, (_, k) => filled(values.filter((_, i) => i % parts === k)))
        expect(sparse(sumOf(split))).toEqual(sparse(filled(values)))
        expect(sparse(sumOf(split.reverse()))).toEqual(sparse(filled(values)))
      }),
    )
  })

  it('can be undone exactly', () => {
    fc.assert(
      fc.property(durations, durations, (a, b) => {
        const sum = sumOf([filled(a), filled(b)])
        sum.subtract(filled(b))
        expect(sparse(sum)).toEqual(sparse(filled(a)))
      }),
    )
    expect(() => filled([5]).subtract(filled([6]))).toThrow(RangeError)
  })

  it('from bytes equals merging in memory; what a second’s recorder writes is the same encoding', () => {
    fc.assert(
      fc.property(durations, (values) => {
        const recorder = new SecondRecorder()
        for (const v of values) recorder.record(v)
        const writer = new ByteWriter(1)
        recorder.cut(writer)
        expect(writer.take()).toEqual(sparse(filled(values)))
        expect(recorder.length).toBe(0)
        const back = new Histogram()
        back.addSparse(writer.take())
        back.addSparse(writer.take())
        expect(sparse(back)).toEqual(sparse(sumOf([filled(values), filled(values)])))
      }),
    )
  })

  it('refuses bytes that are no encoding, whatever they are', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 60 }), (bytes) => {
        try {
          new Histogram().addSparse(bytes)
        }
        catch (e) {
          expect(e).toBeInstanceOf(BytesError)
        }
      }),
    )
    expect(() => new Histogram().addSparse(Uint8Array.of(5))).toThrow(BytesError)
    expect(() => new Histogram().addSparse(Uint8Array.of(255, 255, 255, 255, 1, 1))).toThrow(BytesError)
  })
})

describe('blocks', () => {
  const blocks = (h: Histogram) => {
    const w = new ByteWriter()
    h.writeBlocks(w)
    return w.take()
  }
  /** Buckets side by side, some with more than a byte or two hold; and some far away. */
  const crowds = fc.tuple(
    fc.integer({ min: 0, max: INDEX_COUNT - 1200 }),
    fc.oneof(
      // Half a byte holds each of them, or nearly.
      fc.array(fc.integer({ min: 0, max: 16 }), { minLength: 1, maxLength: 1200 }),
      fc.array(fc.oneof(fc.integer({ min: 0, max: 3 }), fc.constantFrom(255, 256, 65_535, 65_536, 2 ** 40)), {
        minLength: 1,
        maxLength: 1200,
      }),
    ),
    fc.array(fc.integer({ min: 0, max: INDEX_COUNT - 1 }), { maxLength: 20 }),
  )
  const crowd = ([first, counts, others]: [number, number[], number[]]) => {
    const h = new Histogram()
    counts.forEach((times, i) => {
      if (times > 0) h.addAt(first + i, times)
    })
    for (const index of others) h.addAt(index, 1)
    return h
  }

  it('hold what a sparse encoding holds, also added to what is there', () => {
    fc.assert(
      fc.property(crowds, crowds, (a, b) => {
        const back = crowd(b)
        const bytes = blocks(crowd(a))
        back.addBlocks(bytes, 0, bytes.length)
        const whole = sumOf([crowd(a), crowd(b)])
        expect(sparse(back)).toEqual(sparse(whole))
        expect(back.count).toBe(whole.count)
      }),
    )
  })

  it('take half a byte for each bucket of few values, a byte or two where there are more', () => {
    const of = (times: number) => {
      const h = new Histogram()
      for (let i = 0; i < 256; i++) h.addAt(i, times)
      return blocks(h).length
    }
    expect([of(15), of(16), of(256)]).toEqual([129, 257, 513])
  })

  it('are used where buckets lie close, not for a handful', () => {
    expect(filled([40_000, 41_000, 90_000]).crowded).toBe(false)
    expect(filled(Array.from({ length: 256 }, (_, i) => 1024 + i)).crowded).toBe(true)
    // This many in one bucket: no count of a byte or two holds them.
    const heaps = new Histogram()
    for (let i = 0; i < 256; i++) heaps.addAt(i, 70_000)
    expect(heaps.crowded).toBe(false)
  })

  it('are refused where they are none, whatever the bytes are', () => {
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 1, maxLength: 60 }), (bytes) => {
        try {
          new Histogram().addBlocks(bytes, 0, bytes.length)
        }
        catch (e) {
          expect(e).toBeInstanceOf(BytesError)
        }
      }),
    )
    const bytes = blocks(filled(Array.from({ length: 256 }, (_, i) => 1024 + i)))
    expect(() => new Histogram().addBlocks(bytes, 0, bytes.length - 1)).toThrow(BytesError)
  })

  it('make a sum of a run file what the sum of a frame is', () => {
    fc.assert(
      fc.property(crowds, durations, (of, few) => {
        const sum = new SeriesSum()
        sum.timings.right.add(crowd(of))
        sum.timings.connect.add(filled(few))
        const read = ([4, 5] as const).map((encoding) => {
          const [w, back] = [new ByteWriter(), new SeriesSum()]
          sum.writeTo(w, encoding)
          const reader = new ByteReader(w.take())
          back.addFrom(reader, encoding)
          expect(reader.at).toBe(reader.end)
          return TIMINGS.map(timing => sparse(back.timings[timing]))
        })
        expect(read[1]).toEqual(read[0])
      }),
    )
  })
})

describe('published log encoding', () => {
  it('of ours is read by the reference library', () => {
    fc.assert(
      fc.property(durations, (values) => {
        const payload = deflateSync(toPublishedV2(filled(values)))
        const head = Buffer.alloc(8)
        head.writeInt32BE(0x1c849304 | 0x10, 0)
        head.writeInt32BE(payload.length, 4)
        const theirs = decodeFromCompressedBase64(Buffer.concat([head, payload]).toString('base64'), 64, false)
        const ours = filled(values)
        expect(theirs.totalCount).toBe(ours.count)
        for (const p of [1, 50, 95, 99, 100]) expect(theirs.getValueAtPercentile(p)).toBe(ours.percentileUs(p / 100))
      }),
      { numRuns: 40 },
    )
  })

  it('of the reference library is read by ours', () => {
    fc.assert(
      fc.property(durations, (values) => {
        const theirs = reference()
        for (const v of values) theirs.recordValue(v)
        const bytes = Buffer.from(encodeIntoCompressedBase64(theirs), 'base64')
        expect(sparse(fromPublishedV2(inflateSync(bytes.subarray(8))))).toEqual(sparse(filled(values)))
      }),
      { numRuns: 40 },
    )
  })

  it('refuses what is cut short or another format', () => {
    expect(() => fromPublishedV2(toPublishedV2(filled([1, 2, 3])).subarray(0, 41))).toThrow('cut short')
    expect(() => fromPublishedV2(new Uint8Array(44))).toThrow('V2')
    expect(() => fromPublishedV2(new Uint8Array(3))).toThrow('shorter')
  })
})

describe('numbers on the wire', () => {
  it('come back as they were, up to 2^53', () => {
    fc.assert(
      fc.property(fc.array(fc.maxSafeNat()), (numbers) => {
        const w = new ByteWriter(1)
        for (const n of numbers) w.varint(n)
        const r = new ByteReader(w.take())
        expect(numbers.map(() => r.varint())).toEqual(numbers)
        expect(() => r.varint()).toThrow(BytesError)
      }),
    )
  })
})
