/**
 * An answer as checks and captures see it, read from what the exchange kept. Nothing is decoded or parsed before
 * something asks.
 */
import iconv from 'iconv-lite'
import { brotliDecompressSync, gunzipSync, inflateSync } from 'node:zlib'
import type { HttpAnswer } from '../../core/journey/answers'
import { MOST_EXAMINED_BYTES, type Outcome } from '../exchange/exchange'

const BYTE_ORDER_MARK = 0xfeff

export class LoadedAnswer implements HttpAnswer {
  private outcome!: Outcome
  private decoded: string | undefined
  private parsed: { value: unknown } | undefined

  /** Looks at this outcome from now on. */
  of(outcome: Outcome): this {
    this.outcome = outcome
    this.forget()
    return this
  }

  /**
   * Lets go of what was decoded: held through a pause it would outlive two collections of the young, which then cost
   * three times as much (measured: 40 kB answers).
   */
  forget(): void {
    this.decoded = undefined
    this.parsed = undefined
  }

  get status(): number {
    return this.outcome.status
  }

  get bytes(): number {
    return this.outcome.bytes
  }

  get durationMs(): number {
    return this.outcome.endedAt - this.outcome.beganAt
  }

  header(name: string): string | undefined {
    const { rawHeaders } = this.outcome
    let found: string | undefined
    for (let i = 0; i < rawHeaders.length; i += 2) {
      const raw = rawHeaders[i]!
      if (raw.length !== name.length || raw.toString('latin1').toLowerCase() !== name) continue
      const value = rawHeaders[i + 1]!.toString('latin1')
      found = found === undefined ? value : `${found}, ${value}`
    }
    return found
  }

  /** Every Set-Cookie line (RFC 6265 §4.1). */
  setCookies(): string[] | undefined {
    const { rawHeaders } = this.outcome
    let lines: string[] | undefined
    for (let i = 0; i < rawHeaders.length; i += 2) {
      const raw = rawHeaders[i]!
      // Ten letters, the first an S: cheaper than reading every name.
      if (raw.length !== 10 || (raw[0]! | 32) !== 115 || raw.toString('latin1').toLowerCase() !== 'set-cookie') continue
      ;(lines ??= []).push(rawHeaders[i + 1]!.toString('latin1'))
    }
    return lines
  }

  cookie(name: string): string | undefined {
    const line = this.setCookies()?.findLast(l => l.slice(0, l.indexOf('=')).trim() === name)
    return line
      ?.slice(line.indexOf('=') + 1)
      .split(';')[0]!
      .trim()
  }

  text(): string {
    return (this.decoded ??= this.decode())
  }

  json(): unknown {
    if (!this.parsed) {
      let value: unknown
      try {
        value = JSON.parse(this.text())
      }
      catch {
        value = undefined
      }
      this.parsed = { value }
    }
    return this.parsed.value
  }

  /** The body, unpacked. An answer that cannot be unpacked is empty to those who look for something in it. */
  content(): Buffer {
    const { chunks } = this.outcome
    const body = chunks.length === 1 ? chunks[0]! : Buffer.concat(chunks)
    if (body.length === 0) return body
    try {
      switch (this.header('content-encoding')?.trim().toLowerCase()) {
        case 'gzip':
          return gunzipSync(body, { maxOutputLength: MOST_EXAMINED_BYTES })
        case 'br':
          return brotliDecompressSync(body, { maxOutputLength: MOST_EXAMINED_BYTES })
        case 'deflate':
          return inflateSync(body, { maxOutputLength: MOST_EXAMINED_BYTES })
        default:
          return body
      }
    }
    catch {
      return Buffer.alloc(0)
    }
  }

  private decode(): string {
    const content = this.content()
    const charset = /charset="?([\w-]+)/i.exec(this.header('content-type') ?? '')?.[1]?.toLowerCase()
    if (!charset || charset === 'utf-8' || charset === 'utf8') {
      // A third of what a TextDecoder takes for small texts.
      const text = content.toString('utf8')
      return text.charCodeAt(0) === BYTE_ORDER_MARK ? text.slice(1) : text
    }
    // Not TextDecoder: Node 20's takes Windows-1252 for ISO 8859-1.
    return iconv.decode(content, iconv.encodingExists(charset) ? charset : 'utf-8')
  }
}
