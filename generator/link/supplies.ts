/**
 * Fetches what a run needs from the controller, in parts over the link, each content once; what has come stays in
 * memory for as long as the generator lives.
 */
import { createHash } from 'node:crypto'
import type { FeedSupply, FromGenerator, RowStretch, RunSupplies, ToGenerator } from '../../protocol/messages'
import { offsetsOf, type FeedRows } from '../journey/feed-dealer'

/** Bytes asked for at once: small enough never to hold up the controller's loop. */
const PART_BYTES = 512 * 1024
/** A part that has not come by then is asked for again, ms. */
const PATIENCE_MS = 5000

/** Supplies as worker threads get them: shared memory, nothing is copied. */
export interface FetchedSupplies {
  secrets: Record<string, string>
  files: [id: string, bytes: Uint8Array][]
  feeds: [id: string, feed: { columns: string[], whole?: FeedRows, slice?: FeedRows }][]
}

interface Fetch {
  file: string
  bytes: Uint8Array
  base: number
  at: number
  timer: NodeJS.Timeout | undefined
  done: (bytes: Uint8Array) => void
}

export class SupplyLine {
  private readonly kept = new Map<string, Promise<Uint8Array>>()
  private readonly under = new Map<string, Fetch[]>()

  constructor(private readonly say: (message: FromGenerator) => void) {}

  async fetch({ secrets, files, feeds }: RunSupplies): Promise<FetchedSupplies> {
    return {
      secrets,
      files: await Promise.all(
        files.map(async ({ id, bytes }): Promise<[string, Uint8Array]> => {
          const content = await this.stretch(id, 0, bytes)
          if (createHash('sha256').update(content).digest('hex') !== id)
            throw new Error(`the file ${id.slice(0, 8)} came damaged`)
          return [id, content]
        }),
      ),
      feeds: await Promise.all(
        feeds.map(async (feed): Promise<FetchedSupplies['feeds'][number]> => [
          feed.id,
          {
            columns: feed.columns,
            ...(feed.whole ? { whole: await this.rows(feed, feed.whole) } : {}),
            ...(feed.slice ? { slice: await this.rows(feed, feed.slice) } : {}),
          },
        ]),
      ),
    }
  }

  /** A part has come. */
  take({ file, from, base64 }: Extract<ToGenerator, { kind: 'part' }>): void {
    for (const fetch of [...(this.under.get(file) ?? [])]) {
      if (fetch.base + fetch.at !== from) continue
      const bytes = Buffer.from(base64, 'base64')
      fetch.bytes.set(bytes.subarray(0, fetch.bytes.length - fetch.at), fetch.at)
      fetch.at += bytes.length
      this.goOn(fetch)
    }
  }

  private async rows(feed: FeedSupply, { fromByte, toByte, rows }: RowStretch): Promise<FeedRows> {
    const bytes = await this.stretch(feed.file, fromByte, toByte)
    return { bytes, offsets: offsetsOf(bytes, rows) }
  }

  private stretch(file: string, from: number, to: number): Promise<Uint8Array> {
    const key = `${file} ${from} ${to}`
    let kept = this.kept.get(key)
    if (!kept) {
      kept = new Promise((done) => {
        const fetch: Fetch = {
          file,
          bytes: new Uint8Array(new SharedArrayBuffer(to - from)),
          base: from,
          at: 0,
          timer: undefined,
          done,
        }
        this.under.set(file, [...(this.under.get(file) ?? []), fetch])
        this.goOn(fetch)
      })
      this.kept.set(key, kept)
    }
    return kept
  }

  private goOn(fetch: Fetch): void {
    clearTimeout(fetch.timer)
    if (fetch.at >= fetch.bytes.length) {
      this.under.set(
        fetch.file,
        (this.under.get(fetch.file) ?? []).filter(f => f !== fetch),
      )
      return fetch.done(fetch.bytes)
    }
    const from = fetch.base + fetch.at
    this.say({ kind: 'want', file: fetch.file, from, to: Math.min(from + PART_BYTES, fetch.base + fetch.bytes.length) })
    fetch.timer = setTimeout(() => this.goOn(fetch), PATIENCE_MS)
  }
}
