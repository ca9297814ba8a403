/**
 * What providers offer, as plans are checked against it: remembered for a moment, with machines that wait, and with
 * boots as they were seen.
 */
import { OfferBook } from '../../control/library/offers'
import { ProviderSilent, type Provider } from '../../control/machines/providers/contract'
import type { RegionOffer } from '../../core/offers/machine-type'
import { offers } from '../build/plans'

const idle = (region: string, type: string, state: 'ready' | 'lost' = 'ready') => ({
  provider: 'nimbral',
  region,
  type,
  state,
})
function book({
  offered = () => Promise.resolve(offers().nimbral!),
  waiting = [] as ReturnType<typeof idle>[],
  seenMs = undefined as number | undefined,
} = {}) {
  let now = 0
  const asked: number[] = []
  const provider = {
    id: 'nimbral',
    offers: () => {
      asked.push(now)
      return offered()
    },
  } as unknown as Provider
  const silent = { id: 'quiet', offers: () => Promise.reject(new ProviderSilent('no answer')) } as unknown as Provider
  const found = new OfferBook(
    new Map([
      ['quiet', silent],
      ['nimbral', provider],
    ]),
    { now: () => now } as never,
    () => waiting,
    id => (id === 'nimbral' ? seenMs : undefined),
  )
  return {
    book: found,
    asked,
    at: (ms: number) => {
      now = ms
    },
  }
}
const reyk = async (b: OfferBook): Promise<RegionOffer> => (await b.offers()).nimbral!.find(o => o.region === 'reyk')!

describe('offers', () => {
  it('are asked for once in a moment, in the order of the providers; one that is silent offers nothing', async () => {
    const { book: b, asked, at } = book()
    expect(b.last).toBeUndefined()
    const first = await b.offers()
    expect([Object.keys(first), first.quiet, first.nimbral!.length]).toEqual([['quiet', 'nimbral'], undefined, 2])
    at(1999)
    expect(await b.offers()).toBe(first)
    await b.offers(true)
    at(4000)
    await b.offers()
    expect(asked).toEqual([0, 1999, 4000])
  })

  it('count machines that are kept warm, by region and type, while they can still work', async () => {
    const { book: b } = book({
      waiting: [
        idle('reyk', 'brisk-1'),
        idle('reyk', 'brisk-1'),
        idle('reyk', 'brisk-2'),
        idle('reyk', 'brisk-1', 'lost'),
      ],
    })
    expect((await reyk(b)).waiting).toEqual({ 'brisk-1': 2, 'brisk-2': 1 })
    expect((await b.offers()).nimbral!.find(o => o.region === 'tavira')!.waiting).toBeUndefined()
  })

  it('believe the stated boot until machines were seen to take longer, and never for one that comes by itself', async () => {
    expect((await reyk(book().book)).bootS).toBe(1)
    expect((await reyk(book({ seenMs: 400 }).book)).bootS).toBe(1)
    expect((await reyk(book({ seenMs: 41_200 }).book)).bootS).toBe(42)
    expect(
      (
        await reyk(
          book({ seenMs: 41_200, offered: () => Promise.resolve(offers({ selfEnrolled: true, bootS: 0 }).nimbral!) })
            .book,
        )
      ).bootS,
    ).toBe(0)
  })

  it('break with what is no silence', async () => {
    await expect(book({ offered: () => Promise.reject(new TypeError('a fault')) }).book.offers()).rejects.toThrow(
      'a fault',
    )
  })
})
