/**
 * Frames as they came, the truth a run is merged from. Those of one second that are committed together lie together, as
 * a chunk: LEB128 generator, length, then the frame itself, one after the other, deflated (RFC 1951). Files of earlier
 * releases have a row for each frame; what is added to them are chunks.
 */
import { deflateRawSync, inflateRawSync } from 'node:zlib'
import { ByteReader, ByteWriter } from '../../core/histogram/varint'
import type { Store } from '../store/open'
import { onlyRow } from '../store/only-row'

export interface KeptFrame {
  generator: number
  second: number
  bytes: Uint8Array
}

/** @param chunk number of the chunk it lies in; 0: none, it is a row of its own */
type VisitFrame = (generator: number, bytes: Uint8Array, chunk: number) => void

/** The quickest: what it leaves is within a hundredth of what the slowest does. */
const DEFLATE = { level: 1 }
/** More is no second of a run, no matter what packed it. */
const INFLATE = { maxOutputLength: 256 * 1024 * 1024 }

export class KeptFrames {
  private readonly sql: ReturnType<typeof statements>
  private readonly hasRows: boolean
  private readonly writer = new ByteWriter(65_536)

  constructor(store: Store) {
    this.sql = statements(store)
    this.hasRows = this.sql.anyRow.get() !== undefined
  }

  /** Number of the newest chunk; 0 before the first. */
  get newest(): number {
    return onlyRow(this.sql.newest.get())
  }

  /** Keeps frames that were not here before. Call within a transaction. */
  put(frames: readonly KeptFrame[]): void {
    const bySecond = new Map<number, KeptFrame[]>()
    for (const frame of frames) {
      const of = bySecond.get(frame.second)
      if (of) of.push(frame)
      else bySecond.set(frame.second, [frame])
    }
    for (const [second, of] of bySecond) {
      this.writer.length = 0
      for (const { generator, bytes } of of) {
        this.writer.varint(generator)
        this.writer.varint(bytes.length)
        this.writer.raw(bytes)
      }
      this.sql.put.run(second, deflateRawSync(this.writer.bytes.subarray(0, this.writer.length), DEFLATE))
    }
  }

  /** Every frame of seconds `fromS` (inclusive) to `toS` (exclusive). */
  each(fromS: number, toS: number, visit: VisitFrame): void {
    if (this.hasRows) for (const [generator, bytes] of this.sql.rows.iterate(fromS, toS)) visit(generator, bytes, 0)
    for (const [id, frames] of this.sql.chunks.iterate(fromS, toS)) open(id, frames, visit)
  }

  /** Deletes every frame of a second before this one. Call within a transaction. */
  dropBefore(second: number): void {
    this.sql.dropChunks.run(second)
    this.sql.dropRows.run(second)
  }

  /** Every frame that was kept after a chunk, and every frame of a second or later. @param chunk −1: every frame */
  since(chunk: number, second: number, visit: VisitFrame): void {
    if (chunk < 0) return this.each(0, Number.MAX_SAFE_INTEGER, visit)
    const end = Number.MAX_SAFE_INTEGER
    if (this.hasRows) for (const [generator, bytes] of this.sql.rows.iterate(second, end)) visit(generator, bytes, 0)
    for (const [id, frames] of this.sql.since.iterate(chunk, second)) open(id, frames, visit)
  }
}

function open(id: number, frames: Buffer, visit: VisitFrame): void {
  const reader = new ByteReader(inflateRawSync(frames, INFLATE))
  while (reader.at < reader.end) {
    const generator = reader.varint()
    const length = reader.varint()
    const at = reader.skip(length)
    visit(generator, reader.bytes.subarray(at, at + length), id)
  }
}

function statements(store: Store) {
  return {
    anyRow: store.prepare('SELECT 1 FROM frames LIMIT 1'),
    newest: store.prepare<[], number>('SELECT COALESCE(MAX(id), 0) FROM chunks').pluck(),
    put: store.prepare<[number, Uint8Array]>('INSERT INTO chunks (second, frames) VALUES (?, ?)'),
    dropChunks: store.prepare<[number]>('DELETE FROM chunks WHERE second < ?'),
    dropRows: store.prepare<[number]>('DELETE FROM frames WHERE second < ?'),
    rows: store
      .prepare<[number, number], [generator: number, bytes: Buffer]>(
        'SELECT generator, bytes FROM frames WHERE second >= ? AND second < ?',
      )
      .raw(),
    chunks: store
      .prepare<[number, number], [id: number, frames: Buffer]>(
        'SELECT id, frames FROM chunks WHERE second >= ? AND second < ?',
      )
      .raw(),
    since: store
      .prepare<[number, number], [id: number, frames: Buffer]>(
        'SELECT id, frames FROM chunks WHERE id > ? OR second >= ?',
      )
      .raw(),
  }
}
