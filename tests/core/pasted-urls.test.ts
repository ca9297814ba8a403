/** Pasted addresses become a journey, or are refused in words. */
import { journeyOfUrls, PastedError, readUrls } from '../../core/formats/pasted-urls'
import type { RequestStep } from '../../core/journey/journey'

describe('pasted addresses', () => {
  it('become a journey and a target', () => {
    const { journey, target } = journeyOfUrls(
      readUrls('see https://shop.test/cart?a=1 and\nshop.test/pay, http://other.test:81/x'),
    )
    expect(target).toMatchObject({ baseUrl: 'https://shop.test', name: 'shop.test' })
    expect((journey.round as RequestStep[]).map(s => [s.name, s.url, s.query])).toEqual([
      ['cart', '/cart', [['a', '1']]],
      ['pay', '/pay', undefined],
      ['x', 'http://other.test:81/x', undefined],
    ])
  })
  it('must be there', () => expect(() => readUrls('hello world')).toThrow(PastedError))
})
