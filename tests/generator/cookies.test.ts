/** A user's cookies, after the examples of RFC 6265, section 3.1, and the rules of section 5. */
import { CookieKeeper } from '../../generator/journey/cookie-keeper'

const keeper = (url: string, ...lines: string[]) => {
  const k = new CookieKeeper()
  k.take(url, lines)
  return k
}

describe('cookies', () => {
  it('come back to where they came from (§3.1: SID=31d4d96e407aad42)', () => {
    expect(keeper('http://www.example.com/', 'SID=31d4d96e407aad42').lineFor('http://www.example.com', '/any')).toBe(
      'SID=31d4d96e407aad42',
    )
    expect(new CookieKeeper().lineFor('http://www.example.com', '/')).toBe('')
  })

  it('are several in one line, as the example has it', () => {
    const k = keeper(
      'https://www.example.com/',
      'SID=31d4d96e407aad42; Path=/; Secure; HttpOnly',
      'lang=en-US; Path=/; Domain=example.com',
    )
    expect(k.lineFor('https://www.example.com', '/a?b=c')).toBe('SID=31d4d96e407aad42; lang=en-US')
    expect(k.lineFor('http://www.example.com', '/')).toBe('lang=en-US')
    expect(k.lineFor('https://other.example.com', '/')).toBe('lang=en-US')
    expect(k.lineFor('https://example.org', '/')).toBe('')
  })

  it('go when they are told to (§3.1: an Expires date in the past), also what was remembered of them', () => {
    const k = keeper('http://a.test/', 'lang=en-US')
    expect(k.lineFor('http://a.test', '/')).toBe('lang=en-US')
    k.take('http://a.test/', ['lang=; Expires=Sun, 06 Nov 1994 08:49:37 GMT'])
    expect(k.lineFor('http://a.test', '/')).toBe('')
  })

  it('end with their time', () => {
    jest.useFakeTimers({ now: Date.UTC(2026, 0, 1) })
    const k = keeper('http://a.test/', 'short=1; Max-Age=10; Path=/', 'long=2; Path=/')
    expect(k.lineFor('http://a.test', '/')).toBe('short=1; long=2')
    jest.setSystemTime(Date.UTC(2026, 0, 1) + 10_001)
    expect(k.lineFor('http://a.test', '/')).toBe('long=2')
    jest.useRealTimers()
  })

  it('are meant for their path (§5.1.4), each path asked for on its own', () => {
    const k = keeper('http://a.test/docs/page', 'deep=1', 'all=2; Path=/')
    expect(k.lineFor('http://a.test', '/docs/other')).toBe('deep=1; all=2')
    expect(k.lineFor('http://a.test', '/docs')).toBe('deep=1; all=2')
    expect(k.lineFor('http://a.test', '/documents')).toBe('all=2')
    for (let i = 0; i < 50; i++) expect(k.lineFor('http://a.test', `/docs/${i}`)).toBe('deep=1; all=2')
  })

  it('of a foreign domain, or of a whole top-level domain, are not taken (§5.3)', () => {
    expect(keeper('http://a.test/', 'x=1; Domain=b.test').lineFor('http://b.test', '/')).toBe('')
    expect(keeper('http://shop.co.uk/', 'x=1; Domain=co.uk').lineFor('http://other.co.uk', '/')).toBe('')
  })

  it('are gone with the user', () => {
    const k = keeper('http://a.test/', 'x=1')
    k.clear()
    expect(k.lineFor('http://a.test', '/')).toBe('')
  })
})
