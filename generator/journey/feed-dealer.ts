/**
 * Deals a feed's rows on one worker: in order, at random, or each once. Rows stay bytes until they are dealt; a million
 * cost what their text costs.
 */
import type { Deal } from '../../core/journey/journey'

/** Rows a generator holds: one JSON array of texts per line. Shared by its workers. */
export interface FeedRows {
  bytes: Uint8Array
  /** Byte at which each row begins, and the end of the last. */
  offsets: Uint32Array
}

/** Where a worker stands among all that deal the same feed. */
export interface DealerPost {
  /** Index of the generator and how many there are. */
  generator: number
  generators: number
  /** Index of the worker on its generator and how many there are. */
  worker: number
  workers: number
}

/** Finds where rows begin. @param bytes lines, each ended by a line feed */
export function offsetsOf(bytes: Uint8Array, rows: number): Uint32Array {
  const offsets = new Uint32Array(new SharedArrayBuffer((rows + 1) * 4))
  let row = 1
  for (let at = bytes.indexOf(10); at >= 0 && row <= rows; at = bytes.indexOf(10, at + 1)) offsets[row++] = at + 1
  if (row !== rows + 1) throw new Error(`the feed has ${row - 1} rows, ${rows} were announced`)
  return offsets
}

export class FeedDealer {
  private turn = 0
  private readonly count: number

  /**
   * @param rows of the whole feed, or with `once` of this generator's slice alone
   * @param again begin anew when all have been dealt; only in order
   */
  constructor(
    private readonly rows: FeedRows,
    private readonly deal: Deal,
    private readonly again: boolean,
    private readonly post: DealerPost,
    private readonly random: () => number,
  ) {
    this.count = rows.offsets.length - 1
  }

  /** The next row; undefined when they have run out. */
  next(): string[] | undefined {
    const row = this.nextNumber()
    if (row === undefined) return undefined
    const { bytes, offsets } = this.rows
    // Its rows were written by the import, as lists of cells.
    return JSON.parse(DECODER.decode(bytes.slice(offsets[row], offsets[row + 1]! - 1))) as string[]
  }

  private nextNumber(): number | undefined {
    const { count, post } = this
    if (count === 0) return undefined
    switch (this.deal) {
      case 'atRandom':
        return Math.min(count - 1, Math.floor(this.random() * count))
      case 'once': {
        // The generator's slice cut once more, so that no two workers hold the same row.
        const from = Math.floor((count * post.worker) / post.workers)
        const row = from + this.turn++
        return row < Math.floor((count * (post.worker + 1)) / post.workers) ? row : undefined
      }
      case 'inOrder': {
        // Everybody walks the same feed with the stride of the whole fleet: together they go through it in order.
        const row = post.generator + post.generators * (post.worker + post.workers * this.turn++)
        return row < count ? row : this.again ? row % count : undefined
      }
    }
  }
}

const DECODER = new TextDecoder()
