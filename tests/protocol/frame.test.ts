import fc from 'fast-check'
import { NO_HEALTH } from '../../core/capacity/signals'
import { BytesError, ByteWriter } from '../../core/histogram/varint'
import { Histogram } from '../../core/histogram/histogram'
import { SeriesSum } from '../../core/merge/series-sum'
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

  it('look byte by byte as docs/protocol.md says', () => {
    const bytes = framesOf([{ series: 2, startS: 0, ms: 5 } satisfies Sample], { incarnation: 1, users: 3 })[0]!.bytes
    expect(Buffer.from(bytes.subarray(0, bytes.length - 4)).toString('hex')).toBe(
      [
        '564e',
        '04',
        '01',
        '01000000',
        '0000',
        '01000000',
        '00000000', // magic, version, last, incarnation, worker, sequence, second
        '01',
        '01',
        '00',
        '00',
        '00',
        '00', // claims: started, right, failed, cut, never sent, unclear
        '01',
        '03', // one group, three users
        'd00f',
        'e807',
        'e807',
        'e807',
        '64',
        '0000000000', // cpu 20 %, loop 1 ms, lag 1 ms, memory 10 %, sockets 1 %, the other five 0
        '01', // one entry:
        '02',
        '01',
        '01',
        '00',
        '00',
        '00',
        '00',
        '64',
        '00',
        '00',
        '00',
        '00', // series 2, started 1, right 1, never sent, unclear, cut, redirects, 100 bytes, no pass, no failure kind, nothing missed, nothing not started
        '02c433',
        '00',
        '02c433',
        '00',
        '02c423', // right 5 ms, failed, intended 5 ms, connect, first byte 2.5 ms
      ].join(''),
    )
  })
})
