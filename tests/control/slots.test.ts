/** Where the sums of a pyramid lie: packed or in rows, what was put in is what is read, whatever is added later. */
import fc from 'fast-check'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { ByteWriter } from '../../core/histogram/varint'
import { SeriesSum } from '../../core/merge/series-sum'
import { Pyramid } from '../../control/ingest/pyramid'
import { slotsOf, type Sums } from '../../control/ingest/slots'
import { openRunFile, type Store } from '../../control/store/open'

const folder = mkdtempSync(join(tmpdir(), 'vornak-slots-'))
afterAll(() => rmSync(folder, { recursive: true }))

let files = 0
/** A run's file; in the format of this release, or going on in that of an earlier one. */
function fileOf(format: '5' | '6'): Store {
  const store = openRunFile(join(folder, `run-${++files}.db`))
  store.prepare('UPDATE facts SET value = ? WHERE name = \'sums\'').run(format)
  return store
}

function sumOf(times: readonly number[]): SeriesSum {
  const sum = new SeriesSum()
  for (const us of times) {
    sum.started++
    if (us % 5 === 0) {
      sum.failures[us % 3]!++
      sum.timings.failed.record(us)
      continue
    }
    sum.right++
    sum.bytes += us
    sum.leastUs = Math.min(sum.leastUs, us)
    sum.mostUs = Math.max(sum.mostUs, us)
    sum.timings.right.record(us)
  }
  return sum
}
const bytesOf = (sum: SeriesSum) => {
  const to = new ByteWriter()
  sum.writeTo(to)
  return Buffer.from(to.take()).toString('hex')
}
const told = (sums: ReadonlyMap<number, SeriesSum>) =>
  Object.fromEntries([...sums].filter(([, s]) => s.started > 0).map(([n, s]) => [n, bytesOf(s)]))

const second = fc.dictionary(
  fc.nat(500).map(String),
  fc.array(fc.integer({ min: 1, max: 3_000_000 }), { minLength: 1, maxLength: 3 }),
  { maxKeys: 3 },
)
const sumsOf = (of: Record<string, number[]>): Sums =>
  new Map(Object.entries(of).map(([series, times]) => [Number(series), sumOf(times)]))

it.each(['5', '6'] as const)('any window of a file of format %s is the sum of its seconds, late ones too', (format) => {
  const seconds = fc.array(second, { minLength: 95, maxLength: 130, size: 'max' })
  const late = fc.array(fc.tuple(fc.nat(129), second), { minLength: 2, maxLength: 8 })
  const ends = fc.array(fc.nat(129), { maxLength: 3 })
  fc.assert(
    fc.property(seconds, late, ends, fc.nat(130), fc.nat(130), (all, more, restarts, a, b) => {
      const store = fileOf(format)
      let pyramid = new Pyramid(store, -1)
      const came = more.filter(([at]) => at < all.length)
      all.forEach((of, at) => {
        // The process ends now and then, and another goes on.
        if (restarts.includes(at)) pyramid = new Pyramid(store, at - 1)
        pyramid.write(at, sumsOf(of))
        // What is late comes as soon as it can, or at the end.
        for (const [i, [second, more]] of came.entries()) if (second + 3 * i === at) pyramid.add(second, sumsOf(more))
      })
      for (const [i, [second, more]] of came.entries())
        if (second + 3 * i >= all.length) pyramid.add(second, sumsOf(more))
      const read = new Pyramid(store, all.length - 1, 'read')
      // The whole hundred is made of what was full before, and of what came into it since.
      for (const [fromS, toS] of [[Math.min(a, b), Math.max(a, b)], [0, 100], [0, 130]] as const) {
        const due: Record<string, number[]> = {}
        const add = (of: Record<string, number[]>) => {
          for (const [series, times] of Object.entries(of)) (due[series] ??= []).push(...times)
        }
        all.forEach((of, at) => at >= fromS && at < toS && add(of))
        for (const [at, of] of came) if (at >= fromS && at < toS) add(of)
        expect(told(read.window(fromS, toS))).toEqual(told(sumsOf(due)))
      }
      store.close()
    }),
    { numRuns: 15 },
  )
})

it('a new file is packed: one row a slot, and none a series', () => {
  const store = openRunFile(join(folder, 'run-new.db'))
  const pyramid = new Pyramid(store, -1)
  for (let at = 0; at < 10; at++) pyramid.write(at, sumsOf({ 3: [at + 1], 400: [7] }))
  expect(store.prepare('SELECT level, slot FROM packs WHERE level > 1').all()).toEqual([{ level: 10, slot: 0 }])
  expect(store.prepare('SELECT COUNT(*) FROM pyramid').pluck().get()).toBe(0)
  const slots = slotsOf(store)
  expect([slots.has(10, 0), slots.has(10, 1), slots.encoding]).toEqual([true, false, 5])
  const seen: number[] = []
  // One that does not read a sum gets the next one all the same.
  slots.each(10, 0, 1, series => void seen.push(series))
  expect(seen).toEqual([3, 400])
  store.close()
})
