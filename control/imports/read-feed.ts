/**
 * Reads a CSV of any size into a feed: rows as generators want them, one JSON array per line, and where each begins.
 * Streams: memory does not grow with the file.
 */
import { createHash } from 'node:crypto'
import { createReadStream, closeSync, openSync, writeSync } from 'node:fs'
import { pipeline } from 'node:stream/promises'
import { parse } from 'csv-parse'
import iconv from 'iconv-lite'
import { recogniseEncoding, recogniseHeader, recogniseSeparator } from '../../core/formats/csv-recognition'
import type { Feed } from '../../core/journey/feed'
import { decoderOf, FileError, firstBytes } from './text-of-file'
import { asError, messageOf } from '../../core/values/thrown'
import { present } from '../../core/values/present'

export interface FeedReading {
  encoding?: string
  separator?: string
  header?: boolean
  /** Rows of another length: refused, or filled and cut. */
  ragged?: 'refuse' | 'fill'
}

export type ReadFeed = Omit<Feed, 'id' | 'name' | 'source'>

const PREVIEW_ROWS = 20
const MOST_ROWS = 20_000_000
const MOST_COLUMNS = 500
/** Rows are written in pieces of this many characters. */
const PIECE = 256 * 1024

/**
 * @param to file the rows go to; its index follows them: 8 bytes a row, little-endian, and one for the end @throws
 * FileError
 */
// eslint-disable-next-line max-lines-per-function -- one form, read or written from its beginning to its end
export async function readFeed(from: string, to: string, reading: FeedReading): Promise<ReadFeed> {
  const sample = firstBytes(from)
  if (sample.subarray(0, 4).equals(Buffer.from([0x50, 0x4b, 3, 4])))
    throw new FileError('This is an archive or a spreadsheet, not a CSV.', 'Save the sheet as CSV, then upload that.')
  const encoding = reading.encoding ?? recogniseEncoding(sample)
  const decoder = decoderOf(encoding)
  const text = iconv.decode(sample, encoding)
  if (text.includes('\0')) throw new FileError('The file is not text.', 'Upload a CSV: text, one row a line.')
  const separator = reading.separator ?? recogniseSeparator(text)
  const rows = new RowsFile(to)
  const preview: string[][] = []
  const ragged: { row: number, columns: number }[] = []
  let raggedRows = 0
  let header: boolean | undefined = reading.header
  let columns: string[] | undefined
  const first: string[][] = []

  const takeRow = (row: string[], number: number, names: readonly string[]) => {
    if (row.length !== names.length) {
      raggedRows++
      if (ragged.length < 5) ragged.push({ row: number, columns: row.length })
      if (reading.ragged === 'fill') row = names.map((_, i) => row[i] ?? '')
      else return
    }
    if (preview.length < PREVIEW_ROWS) preview.push(row)
    rows.add(row)
  }
  const begin = () => {
    header ??= recogniseHeader(first)
    const top = first[0] ?? []
    if (top.length > MOST_COLUMNS)
      throw new FileError(
        `The file has ${top.length} columns; at most ${MOST_COLUMNS} are taken.`,
        'Leave out the columns that no template names.',
      )
    const names = header ? columnNames(top) : top.map((_, i) => `column${i + 1}`)
    columns = names
    first.slice(header ? 1 : 0).forEach((row, i) => takeRow(row, i + (header ? 2 : 1), names))
  }

  // The parser's own account of each row (its line) would double the time a million rows take: they are counted here.
  const parser = parse({
    delimiter: separator,
    bom: true,
    relax_column_count: true,
    skip_empty_lines: true,
    max_record_size: 1024 * 1024,
  })
  let number = 0
  parser.on('data', (record: string[]) => {
    number++
    if (columns) takeRow(record, number, columns)
    else if (first.push(record) === 2) {
      try {
        begin()
      }
      catch (error) {
        parser.destroy(asError(error))
      }
    }
  })
  try {
    await pipeline(createReadStream(from), decoder, parser)
    if (!columns) begin()
  }
  catch (error) {
    rows.abandon()
    if (error instanceof FileError) throw error
    // Of whatever was thrown, each of these may be missing.
    const { code, lines } = error as { code?: string, lines?: number }
    if (code?.endsWith('QUOTE_NOT_CLOSED'))
      throw new FileError(
        'A quotation mark is opened and never closed.',
        `It begins before the end at line ${lines ?? '?'}: close it, or double it where it belongs to the text.`,
      )
    // The parser's own errors say the line; a file system's do not.
    if (code !== undefined && lines !== undefined)
      throw new FileError(
        `Line ${lines} cannot be read: ${messageOf(error).replace(/\.$/, '')}.`,
        'Quote the cell as RFC 4180 says, or choose another separator.',
      )
    throw error
  }
  if (raggedRows > 0 && reading.ragged !== 'fill') {
    rows.abandon()
    throw new FileError(
      `${raggedRows === 1 ? 'One row has' : `${raggedRows} rows have`} another number of columns than ${columns?.length}: ${ragged.map(r => `row ${r.row} has ${r.columns}`).join(', ')}${raggedRows > ragged.length ? ' …' : ''}.`,
      'Fix them, choose another separator, or have short rows filled and long ones cut.',
    )
  }
  if (rows.count === 0) {
    rows.abandon()
    throw new FileError(
      header ? 'The file has a line of names and no row.' : 'The file has no row.',
      'Upload one with at least one row.',
    )
  }
  const { hash, rowsBytes } = rows.close()
  const remarks: string[] = []
  if (sample[0] === 0xef && sample[1] === 0xbb) remarks.push('a byte-order mark was left out')
  if (!header) remarks.push('there is no line of names: columns are numbered')
  if (raggedRows > 0)
    remarks.push(
      raggedRows === 1
        ? 'a row of another length was filled or cut'
        : `${raggedRows} rows of another length were filled or cut`,
    )
  return {
    columns: present(columns, 'the columns of a file that has rows'),
    rows: rows.count,
    rowsFile: hash,
    rowsBytes,
    encoding,
    separator,
    header: header ?? true,
    remarks,
    preview,
  }
}

/** Names as templates can write them, each once. */
function columnNames(header: readonly string[]): string[] {
  const names: string[] = []
  header.forEach((cell, i) => {
    const base =
      cell
        .trim()
        .replace(/[^A-Za-z0-9_-]+/g, '_')
        .replace(/^_+|_+$/g, '') || `column${i + 1}`
    let name = base
    for (let n = 2; names.includes(name); n++) name = `${base}_${n}`
    names.push(name)
  })
  return names
}

/** Writes rows, then their index, hashing all of it. */
class RowsFile {
  count = 0
  private readonly handle: number
  private readonly hash = createHash('sha256')
  private offsets = new Float64Array(1024)
  private piece = ''
  private bytes = 0
  /** Bytes of what is in `piece`. */
  private pieceBytes = 0

  constructor(path: string) {
    this.handle = openSync(path, 'w')
  }

  add(row: string[]): void {
    if (this.count >= MOST_ROWS)
      throw new FileError(`The file has more than ${MOST_ROWS / 1e6} million rows.`, 'Cut it down.')
    if (this.count + 1 >= this.offsets.length) {
      const grown = new Float64Array(this.offsets.length * 2)
      grown.set(this.offsets)
      this.offsets = grown
    }
    const line = `${JSON.stringify(row)}\n`
    this.piece += line
    this.pieceBytes += Buffer.byteLength(line)
    this.offsets[++this.count] = this.bytes + this.pieceBytes
    if (this.piece.length > PIECE) this.write()
  }

  close(): { hash: string, rowsBytes: number } {
    this.write()
    const index = Buffer.alloc((this.count + 1) * 8)
    for (let i = 0; i <= this.count; i++) index.writeBigUInt64LE(BigInt(this.offsets[i]!), i * 8)
    writeSync(this.handle, index)
    this.hash.update(index)
    closeSync(this.handle)
    return { hash: this.hash.digest('hex'), rowsBytes: this.bytes }
  }

  abandon(): void {
    closeSync(this.handle)
  }

  private write(): void {
    const bytes = Buffer.from(this.piece)
    writeSync(this.handle, bytes)
    this.hash.update(bytes)
    this.bytes += bytes.length
    this.piece = ''
    this.pieceBytes = 0
  }
}
