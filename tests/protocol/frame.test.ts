import { crc32 } from 'node:zlib'
import fc from 'fast-check'
import { NO_HEALTH } from '../../core/capacity/signals'
import { ByteReader, BytesError, ByteWriter } from '../../core/histogram/varint'
import { Histogram } from '../../core/histogram/histogram'
import { figuresOf } from '../../core/merge/figures'
import { answerNumber, readCounts, SeriesSum } from '../../core/merge/series-sum'
import { addEntries, beginFrame, endFrame, openFrame } from '../../protocol/frame'
import { framesOf, type Sample } from '../build/frames'

const samples = fc.array(
  fc.record({ series: fc.nat(4), startS: fc.nat(20), ms: fc.integer({ min: 1, max: 8000 }), fails: fc.boolean() }),
  { minLength: 1, maxLength: 80 },
)

function merged(frames: { bytes: Uint8Array }[]): Map<number, SeriesSum> {
  const sums = new Map<number, SeriesSum>()
  for (const { bytes } of frames)
    addEntries(
      openFrame(bytes),
      (n) => {
        if (!sums.has(n)) sums.set(n, new SeriesSum())
        return sums.get(n)!
      },
      () => true,
    )
  return sums
}

describe('frames', () => {
  it('merged give the percentiles of one recorder fed the same values, bit for bit', () => {
    fc.assert(
      fc.property(samples, (all) => {
        const sums = merged(framesOf(all))
        for (const series of new Set(all.map(s => s.series))) {
          const alone = new Histogram()
          for (const s of all) if (s.series === series && !s.fails) alone.record(s.ms * 1000)
          for (const p of [0.5, 0.95, 0.99])
            expect(sums.get(series)!.timings.right.percentileUs(p)).toBe(alone.percentileUs(p))
          expect(sums.get(series)!.started).toBe(all.filter(s => s.series === series).length)
          expect(sums.get(series)!.failed).toBe(all.filter(s => s.series === series && s.fails).length)
        }
      }),
    )
  })

  it('are one per run second without a gap, claim what was counted so far, and say which is the last', () => {
    const frames = framesOf([
      { series: 0, startS: 1, ms: 4500 },
      { series: 0, startS: 3, ms: 10 },
    ])
    const tops = frames.map(f => openFrame(f.bytes).top)
    expect(tops.map(t => t.second)).toEqual([0, 1, 2, 3, 4, 5])
    expect(tops.map(t => t.sequence)).toEqual([1, 2, 3, 4, 5, 6])
    expect(tops.map(t => t.claims.started)).toEqual([0, 1, 1, 2, 2, 2])
    expect(tops.map(t => t.claims.right)).toEqual([0, 0, 0, 1, 1, 2])
    expect(tops.map(t => t.last)).toEqual([false, false, false, false, false, true])
  })

  it('are refused when a single byte is wrong', () => {
    const { bytes } = framesOf([{ series: 0, startS: 0, ms: 100 }])[0]!
    fc.assert(
      fc.property(fc.nat(bytes.length - 1), fc.integer({ min: 1, max: 255 }), (at, flip) => {
        const damaged = bytes.slice()
        damaged[at]! ^= flip
        expect(() => merged([{ bytes: damaged }])).toThrow(BytesError)
      }),
    )
  })

  it('never crash the reader with anything but a BytesError', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 200 }), (bytes) => {
        expect(() => merged([{ bytes }])).toThrow(BytesError)
      }),
    )
  })

  it('of series the run does not have are refused', () => {
    const frame = openFrame(framesOf([{ series: 9, startS: 0, ms: 100 }])[0]!.bytes)
    expect(() =>
      addEntries(
        frame,
        () => new SeriesSum(),
        n => (n < 5 ? true : undefined),
      ),
    ).toThrow('series 9 is not of this run')
  })

  it('keep health to a ten-thousandth, and users by group', () => {
    const to = new ByteWriter()
    beginFrame(
      to,
      {
        incarnation: 0xdeadbeef,
        worker: 3,
        sequence: 70_000,
        second: 9,
        last: true,
        claims: { started: 2 ** 40, right: 1, failed: 2, cut: 3, neverSent: 4, unclear: 5 },
        usersByGroup: [12, 0, 300],
        health: {
          ...NO_HEALTH,
          cpuShare: 0.4567,
          loopDelayP99Ms: 12.345,
          scheduleLagP99Ms: 0.001,
          memoryShare: 1,
          socketShare: 0,
        },
      },
      0,
    )
    const { top, entries } = openFrame(endFrame(to))
    expect(top).toMatchObject({
      incarnation: 0xdeadbeef,
      worker: 3,
      sequence: 70_000,
      second: 9,
      last: true,
      users: 312,
      usersByGroup: [12, 0, 300],
      claims: { started: 2 ** 40 },
      health: { cpuShare: 0.4567, loopDelayP99Ms: 12.345, scheduleLagP99Ms: 0.001 },
    })
    expect(entries).toBe(0)
  })

  /** Magic, incarnation 1, worker 0, sequence 1, second 0, claims, three users, health: docs/protocol.md. */
  const head = (version: string) =>
    `564e ${version} 01 01000000 0000 01000000 00000000  01 01 00 00 00 00  01 03  d00f e807 e807 e807 64 0000000000`

  it('look byte by byte as docs/protocol.md says', () => {
    const bytes = framesOf([{ series: 2, startS: 0, ms: 5 } satisfies Sample], { incarnation: 1, users: 3 })[0]!.bytes
    expect(Buffer.from(bytes.subarray(0, bytes.length - 4)).toString('hex')).toBe(
      `${head('05')}
       01
       02 01 01 00 00 00 00 64 00 00 00  01 c801 01  00 00  8827 8827
       15  02 c433  02 c433  02 c423`.replace(/\s/g, ''),
    )
  })

  it('of the releases before are read: without status codes, bytes sent and extremes', () => {
    // As release 0.6.0 wrote it.
    const content = Buffer.from(
      `${head('04')} 01  02 01 01 00 00 00 00 64 00 00 00 00  02 c433 00 02 c433 00 02 c423`.replace(/\s/g, ''),
      'hex',
    )
    const sum = Buffer.alloc(4)
    sum.writeUInt32LE(crc32(content))
    const series = merged([{ bytes: Buffer.concat([content, sum]) }]).get(2)!
    expect(series).toMatchObject({ started: 1, right: 1, bytes: 100, bytesSent: 0 })
    expect(series.answers.size).toBe(0)
    expect(series.timings.firstByte.count).toBe(1)
    // What the histogram says, as nobody wrote down more.
    expect(figuresOf(series)).toMatchObject({ minMs: 5, maxMs: 5.003 })
  })

  it('of more answers by status than there were answers are refused', () => {
    const sum = new SeriesSum()
    sum.started = sum.right = 1
    sum.timings.right.record(5)
    sum.answers.set(answerNumber(200), 2)
    const to = new ByteWriter()
    sum.writeTo(to)
    expect(() => readCounts(new ByteReader(to.take()))).toThrow('status 200 of more answers than there were')
  })

  it('keep statuses apart by what became of the answer, and the shortest and longest time to the microsecond', () => {
    const all: Sample[] = [
      { series: 0, startS: 0, ms: 100.123 },
      { series: 0, startS: 1, ms: 2000.457 },
      { series: 0, startS: 2, ms: 1, fails: true },
    ]
    const series = merged(framesOf(all)).get(0)!
    expect(figuresOf(series)).toMatchObject({
      minMs: 100.123,
      maxMs: 2000.457,
      answers: [
        { status: 200, count: 2 },
        { status: 503, failure: 'status', count: 1 },
      ],
    })
  })
})
