/** Reads a file of results as it streams: memory does not grow with it, but for a HAR, which is one JSON document. */
import { createReadStream } from 'node:fs'
import type { Readable } from 'node:stream'
import { createGunzip } from 'node:zlib'
import Papa from 'papaparse'
import { readAccessLine } from '../../core/elsewhere/access-log'
import { samplesOfHar } from '../../core/elsewhere/har-samples'
import type { FileReading } from '../../core/elsewhere/reading'
import { cellsOfObject, cellsOfRow, rowReader, type Average, type ReadRow } from '../../core/elsewhere/row-reader'
import type { ClaimedSample } from '../../core/elsewhere/sample'
import { recogniseEncoding } from '../../core/formats/csv-recognition'
import { readHistogramLog, startOfHistogramLog, type LogLine } from '../ingest/histogram-log'
import { decoderOf, FileError, firstBytes } from '../imports/text-of-file'
import { messageOf } from '../../core/values/thrown'

/** What is told of what stands in a file, in its order. Lines are counted from 1. */
export interface Taker {
  sample: (sample: ClaimedSample) => void
  average: (average: Average) => void
  /** Right answers of a stretch of time by their buckets. @param startAt of the log, ms since 1970 */
  interval: (interval: LogLine, startAt: number) => void
  fault: (line: number, sentence: string) => void
}

/** A HAR or a histogram log is read at once, bytes. */
const MOST_AT_ONCE = 256 * 1024 * 1024
/** Longest line read, characters: an endless one must not fill the memory. */
const MOST_LINE = 1024 * 1024

/** @param step where none is told @throws FileError when it cannot be read at all */
export async function readResults(path: string, reading: FileReading, step: string, take: Taker): Promise<void> {
  const text = textOf(path)
  switch (reading.form) {
    case 'csv':
      return readCsv(text, reading, step, take)
    case 'jsonLines':
      return readJsonLines(text, reading, step, take)
    case 'accessLog':
      return eachLine(text, (line, number) => handOver(readAccessLine(line), number, take))
    case 'har':
      return samplesAt(await wholeOf(text), take)
    case 'histogramLog': {
      const whole = await wholeOf(text)
      const startAt = startOfHistogramLog(whole)
      for (const interval of asFileError(() => readHistogramLog(whole))) take.interval(interval, startAt)
    }
  }
}

/** The beginning of a file as text, for its form to be recognised. */
export async function beginningOf(path: string): Promise<string> {
  let text = ''
  const stream = textOf(path)
  for await (const chunk of stream) {
    text += String(chunk)
    if (text.length >= 64 * 1024) break
  }
  stream.destroy()
  return text
}

function textOf(path: string): Readable {
  const first = firstBytes(path)
  const isPacked = first[0] === 0x1f && first[1] === 0x8b
  if (first.subarray(0, 4).equals(Buffer.from([0x50, 0x4b, 3, 4])))
    throw new FileError('This is an archive or a spreadsheet.', 'Unpack it, or save the sheet as CSV; then give that.')
  if (!isPacked && first.includes(0) && !/^utf-16/.test(recogniseEncoding(first)))
    throw new FileError('The file is not text.', 'Give CSV, JSON Lines, a histogram log, HAR or an access log.')
  const bytes = createReadStream(path)
  const decoder = decoderOf(isPacked ? 'utf-8' : recogniseEncoding(first))
  // The package’s stream can be destroyed like any other, with types of its own.
  const failed = (error: Error) => (decoder as unknown as Readable).destroy(error)
  bytes.on('error', failed)
  // The package’s types know only what is written to it.
  if (!isPacked) return bytes.pipe(decoder) as unknown as Readable
  const unpacked = createGunzip().on('error', () =>
    failed(new FileError('It is cut off or damaged: it cannot be unpacked.', 'Copy it again.')))
  // As above.
  return bytes.pipe(unpacked).pipe(decoder) as unknown as Readable
}

async function readCsv(text: Readable, reading: FileReading, step: string, take: Taker): Promise<void> {
  const read = rowReader(reading, step)
  let of: ReturnType<typeof cellsOfRow> | undefined
  let number = 0
  const row = (cells: string[]) => {
    number++
    if (cells.length === 1 && cells[0]!.trim() === '') return
    if (!of) {
      const names = reading.header === false ? cells.map((_, i) => `column${i + 1}`) : cells.map(c => c.replace(/^\uFEFF/, '').trim())
      of = asFileError(() => cellsOfRow(reading, names))
      if (reading.header !== false) return
    }
    handOver(read(of(cells)), number, take)
  }
  await new Promise<void>((resolve, reject) => {
    // It takes streams of Node, which its types leave out.
    Papa.parse<string[]>(text as unknown as Papa.LocalFile, {
      delimiter: reading.separator ?? ',',
      skipEmptyLines: false,
      chunk({ data, errors }, parser) {
        try {
          const open = errors.find(e => e.code === 'MissingQuotes')
          if (open)
            throw new FileError(`A quotation mark is opened in row ${number + (open.row ?? 0) + 1} and never closed.`, 'Close it, or double it where it belongs to the text.')
          for (const cells of data) row(cells)
        }
        catch (error) {
          // First: anyone who aborts is told that it is complete.
          reject(error)
          parser.abort()
          text.destroy()
        }
      },
      complete: () => resolve(),
      error: error => reject(error instanceof FileError ? error : new FileError(error.message, 'Give it as CSV.')),
    })
  })
}

function readJsonLines(text: Readable, reading: FileReading, step: string, take: Taker): Promise<void> {
  const read = rowReader(reading, step)
  const of = cellsOfObject(reading)
  return eachLine(text, (line, number) => {
    let one: unknown
    try {
      one = JSON.parse(line)
    }
    catch {
      return take.fault(number, 'it is not JSON')
    }
    if (typeof one !== 'object' || one === null) return take.fault(number, 'it is no JSON object')
    handOver(read(of(one)), number, take)
  })
}

async function eachLine(text: Readable, line: (line: string, number: number) => void): Promise<void> {
  let rest = ''
  let number = 0
  for await (const chunk of text) {
    const parts = (rest + String(chunk)).split('\n')
    rest = parts.pop() ?? ''
    for (const part of parts) {
      number++
      if (part.trim() !== '') line(part.endsWith('\r') ? part.slice(0, -1) : part, number)
    }
    if (rest.length > MOST_LINE)
      throw new FileError(`Line ${number + 1} is longer than ${MOST_LINE / 1024 / 1024} MB.`, 'Give one line for each request.')
  }
  if (rest.trim() !== '') line(rest, number + 1)
}

async function wholeOf(text: Readable): Promise<string> {
  const parts: string[] = []
  let size = 0
  for await (const chunk of text) {
    const part = String(chunk)
    size += part.length
    if (size > MOST_AT_ONCE)
      throw new FileError(`It is larger than ${MOST_AT_ONCE / 1024 / 1024} MB.`, 'Cut it into several files.')
    parts.push(part)
  }
  return parts.join('')
}

function samplesAt(text: string, take: Taker): void {
  asFileError(() => samplesOfHar(text)).forEach((one, i) => handOver(one, i + 1, take))
}

function handOver(row: ReadRow, number: number, take: Taker): void {
  if (typeof row === 'string') take.fault(number, row)
  else if ('average' in row) take.average(row.average)
  else take.sample(row)
}

function asFileError<T>(read: () => T): T {
  try {
    return read()
  }
  catch (error) {
    throw new FileError(messageOf(error), 'Choose another form, or another column.')
  }
}
