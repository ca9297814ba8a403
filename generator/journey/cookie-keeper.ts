/**
 * One user's cookies (RFC 6265, by tough-cookie). Costs nothing before the first cookie; after it, what is sent to an
 * address is remembered until something changes.
 */
import { CookieJar } from 'tough-cookie'

/** Answers remembered per user. */
const MOST_REMEMBERED = 32

export class CookieKeeper {
  private jar: CookieJar | undefined
  private readonly lines = new Map<string, string>()
  /**
   * The line for an origin, where every cookie is meant for all its paths: the usual case, and a lookup of a string
   * that is at hand.
   */
  private origin = ''
  private line: string | undefined
  private anyPath = true
  /** Moment the first cookie ends, ms since 1970. */
  private endsAt = Number.POSITIVE_INFINITY

  /** @param url of the answer @param lines its Set-Cookie lines; what the standard forbids is left out */
  take(url: string, lines: readonly string[]): void {
    this.jar ??= new CookieJar(undefined, { looseMode: true })
    for (const line of lines) {
      const cookie = this.jar.setCookieSync(line, url, { ignoreError: true })
      if (!cookie) continue
      this.endsAt = Math.min(this.endsAt, cookie.expiryTime() ?? Number.POSITIVE_INFINITY)
      this.anyPath &&= cookie.path === '/'
    }
    this.forget()
  }

  /** The Cookie line for a request; empty where there is none. */
  lineFor(origin: string, path: string): string {
    if (!this.jar) return ''
    if (Date.now() >= this.endsAt) {
      this.forget()
      this.endsAt = Number.POSITIVE_INFINITY
    }
    if (this.anyPath) {
      if (this.line === undefined || this.origin !== origin) {
        this.origin = origin
        this.line = this.jar.getCookieStringSync(`${origin}/`)
      }
      return this.line
    }
    // A cookie depends on the path without its query.
    const query = path.indexOf('?')
    const url = origin + (query < 0 ? path : path.slice(0, query))
    let line = this.lines.get(url)
    if (line === undefined) {
      line = this.jar.getCookieStringSync(url)
      if (this.lines.size >= MOST_REMEMBERED) this.lines.clear()
      this.lines.set(url, line)
    }
    return line
  }

  clear(): void {
    this.jar = undefined
    this.anyPath = true
    this.endsAt = Number.POSITIVE_INFINITY
    this.forget()
  }

  private forget(): void {
    this.lines.clear()
    this.line = undefined
  }
}
