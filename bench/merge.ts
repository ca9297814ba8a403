/**
 * `merge`: decode and add one-second frames of 500 samples, against the reference histogram library's decode and add.
 */
import { build, decodeFromCompressedBase64, encodeIntoCompressedBase64 } from 'hdr-histogram-js'
import { Histogram } from '../core/histogram/histogram'
import { ByteWriter } from '../core/histogram/varint'
import { SecondRecorder } from '../core/histogram/second-recorder'
import { seededRandom } from '../core/random/seeded'
import { median, tell } from './measure'

const SAMPLES = 500

export function benchMerge(quick: boolean): void {
  const random = seededRandom(1)
  const seconds = Array.from({ length: 50 }, () =>
    Array.from({ length: SAMPLES }, () =>
      Math.round(60_000 * Math.exp(0.5 * Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random()))),
    ),
  )
  const ours = seconds.map((values) => {
    const recorder = new SecondRecorder()
    for (const v of values) recorder.record(v)
    const writer = new ByteWriter()
    recorder.cut(writer)
    return writer.take()
  })
  const theirs = seconds.map((values) => {
    const h = build()
    for (const v of values) h.recordValue(v)
    return encodeIntoCompressedBase64(h)
  })
  const rounds = quick ? 3 : 40
  const mergeOurs = () => {
    const sum = new Histogram()
    for (const bytes of ours) sum.addSparse(bytes)
    return sum.count
  }
  const mergeTheirs = () => {
    const sum = build()
    for (const text of theirs) sum.add(decodeFromCompressedBase64(text, 32, false))
    return sum.totalCount
  }
  if (mergeOurs() !== mergeTheirs()) throw new Error('both must count the same')
  const time = (work: () => unknown, times: number) => {
    const at = performance.now()
    for (let i = 0; i < times; i++) work()
    return ((performance.now() - at) * 1000) / times / seconds.length
  }
  time(mergeOurs, rounds * 5)
  time(mergeTheirs, rounds)
  const pairs = Array.from({ length: 5 }, () => [time(mergeOurs, rounds * 10), time(mergeTheirs, rounds)] as const)
  const value = median(pairs.map(p => p[0]))
  const reference = median(pairs.map(p => p[1]))
  tell({
    bench: 'merge',
    case: '500 samples',
    value,
    unit: 'µs per frame',
    reference,
    ratio: reference / value,
    goal: '≥ 28',
  })
}
