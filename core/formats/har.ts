/**
 * Reads a browser's capture: HAR 1.2 (the W3C Web Performance group's HTTP Archive draft). Only what a journey can use
 * is kept of each entry.
 */
import type { Pair } from '../journey/journey'
import { messageOf } from '../values/thrown'
import { numberOf, objectOf, textOf } from '../values/untyped'

export class HarError extends Error {
  override name = 'HarError'
  constructor(
    message: string,
    readonly remedy: string,
  ) {
    super(message)
  }
}

export interface SentParam {
  name: string
  value: string
  fileName?: string
  contentType?: string
}

/** One exchange of a capture. */
export interface HarEntry {
  /** Place in the file. */
  index: number
  /** From the first entry, ms. */
  beganMs: number
  endedMs: number
  method: string
  url: URL
  headers: Pair[]
  /** A body: its fields, where it is a form whose body is known. */
  sent: { type: string, text: string, params: SentParam[] } | undefined
  status: number
  answerHeaders: Pair[]
  type: string
  bytes: number
  /** Body of the answer where it is text and was captured. */
  text: string | undefined
  redirectsTo: string | undefined
  page: string | undefined
}

export interface RecordedVisit {
  browser: string
  pages: { id: string, title: string }[]
  entries: HarEntry[]
  /** What is no request a journey can make, and why. */
  left: { index: number, what: string, why: string }[]
  /** What the capture lacks, though it could have it. */
  lacks: string[]
}

/** An entry as it may be; its fields can hold anything. */
type RawEntry = Partial<
  Record<'startedDateTime' | 'time' | 'pageref' | 'request' | 'response' | '_resourceType', unknown>
>

const TEXTUAL = /json|text|xml|html|javascript|urlencoded/i

/**
 * @param attached bodies that lie in files beside the capture, by their names; undefined where there is none of that
 * name
 * @throws HarError in words that say what to do
 */
// eslint-disable-next-line max-lines-per-function -- one form, read or written from its beginning to its end
export function readHar(
  text: string,
  attached: (name: string) => Uint8Array | undefined = () => undefined,
): RecordedVisit {
  const log = logOf(text)
  // Each of its fields is looked at where it is read.
  const raw = log.entries.map(e => objectOf(e) as RawEntry)
  if (raw.length === 0)
    throw new HarError(
      'The capture is empty: nothing was recorded.',
      'Open the browser’s network panel first, then load the page, then save.',
    )
  const begins = raw.map(e => (typeof e.startedDateTime === 'string' ? Date.parse(e.startedDateTime) : Number.NaN))
  const first = begins.reduce((least, at) => (at < least ? at : least), Number.POSITIVE_INFINITY)
  const left: RecordedVisit['left'] = []
  let missing = 0
  const bodyOf = (holder: Record<string, unknown>): Record<string, unknown> => {
    const name = textOf(holder._file)
    if (name === '' || typeof holder.text === 'string') return holder
    const bytes = attached(name)
    if (!bytes) missing++
    return bytes ? { ...holder, text: base64Of(bytes), encoding: 'base64' } : holder
  }
  const entries: HarEntry[] = []
  raw.forEach((e, index) => {
    const request = objectOf(e.request)
    const response = objectOf(e.response)
    const what = `${textOf(request.method) || '?'} ${textOf(request.url).slice(0, 200) || '(no address)'}`
    let url: URL
    try {
      url = new URL(textOf(request.url))
    }
    catch {
      return void left.push({ index, what, why: 'it has no address' })
    }
    if (url.protocol === 'ws:' || url.protocol === 'wss:' || textOf(e._resourceType) === 'websocket')
      return void left.push({ index, what, why: 'a WebSocket is no step' })
    if (url.protocol !== 'http:' && url.protocol !== 'https:')
      return void left.push({ index, what, why: `${url.protocol} is not sent over the network` })
    if (!/^(GET|POST|PUT|PATCH|DELETE|HEAD|OPTIONS)$/.test(textOf(request.method)))
      return void left.push({ index, what, why: 'its method is not one a step can have' })
    const beganMs = Number.isFinite(begins[index]) ? begins[index]! - first : 0
    const content = bodyOf(objectOf(response.content))
    const type = textOf(content.mimeType).split(';')[0]!.trim().toLowerCase()
    entries.push({
      index,
      url,
      beganMs,
      endedMs: beganMs + Math.max(0, numberOf(e.time)),
      method: textOf(request.method),
      headers: pairs(request.headers),
      sent: sentOf(bodyOf(objectOf(request.postData)), request.headers),
      status: numberOf(response.status),
      answerHeaders: pairs(response.headers),
      type,
      bytes: Math.max(0, numberOf(content.size)),
      text: answerText(content, type),
      redirectsTo: textOf(response.redirectURL) || undefined,
      page: textOf(e.pageref) || undefined,
    })
  })
  if (entries.length === 0)
    throw new HarError('The capture holds no HTTP request.', 'Record a page that is loaded over HTTP.')
  entries.sort((a, b) => a.beganMs - b.beganMs || a.index - b.index)
  const pages = (Array.isArray(log.pages) ? log.pages : [])
    .map(objectOf)
    .map(p => ({ id: textOf(p.id), title: textOf(p.title) }))
  const browser = objectOf(log.browser ?? log.creator)
  const lacks =
    missing > 0
      ? [
          `${missing} ${missing === 1 ? 'body lies in a file' : 'bodies lie in files'} beside the capture: put the capture and these files into one zip and import that`,
        ]
      : []
  return { browser: [textOf(browser.name), textOf(browser.version)].filter(Boolean).join(' '), pages, entries, left, lacks }
}

function logOf(text: string): Record<string, unknown> & { entries: unknown[] } {
  let parsed: unknown
  try {
    parsed = JSON.parse(text.charCodeAt(0) === 0xfeff ? text.slice(1) : text)
  }
  catch (error) {
    const begun = /^\s*\{\s*"log"/.test(text)
    const whole = /\}\s*$/.test(text)
    if (begun && !whole)
      throw new HarError(
        `The capture is cut off: it ends in the middle, after ${text.length.toLocaleString('en')} characters.`,
        'Save it again, and let the download finish.',
      )
    throw new HarError(
      `The file is not JSON: ${messageOf(error)}.`,
      'Save the capture as HAR with content from the browser’s network panel.',
    )
  }
  const log = objectOf(objectOf(parsed).log)
  const { entries } = log
  if (!Array.isArray(entries))
    throw new HarError(
      'The file is JSON, but no HAR: it has no log with entries.',
      'Save the capture as HAR from the browser’s network panel.',
    )
  return { ...log, entries }
}

function sentOf(data: Record<string, unknown>, headers: unknown): HarEntry['sent'] {
  const contentType = pairs(headers).find(([name]) => /^content-type$/i.test(name))?.[1] ?? ''
  const type = textOf(data.mimeType) || contentType
  if (data.text === undefined && !Array.isArray(data.params)) {
    // A form with files often comes without its body: that it was one is all that is known.
    return /multipart/i.test(contentType) ? { type: contentType, text: '', params: [] } : undefined
  }
  const text = data.encoding === 'base64' ? latin1(textOf(data.text)) : textOf(data.text)
  const params = Array.isArray(data.params)
    ? data.params.map(objectOf).map((p): SentParam => ({
        name: textOf(p.name),
        value: textOf(p.value),
        ...(p.fileName ? { fileName: textOf(p.fileName) } : {}),
        ...(p.contentType ? { contentType: textOf(p.contentType) } : {}),
      }))
    : []
  return { type, text, params: params.length === 0 && /multipart/i.test(type) ? partsOf(text, type) : params }
}

/** Parts of a multipart body (RFC 7578) as it was sent. */
function partsOf(text: string, type: string): SentParam[] {
  const boundary = /boundary="?([^";]+)"?/i.exec(type)?.[1]
  if (boundary === undefined || text === '') return []
  return text
    .split(`--${boundary}`)
    .slice(1, -1)
    .flatMap((part): SentParam[] => {
      const at = part.indexOf('\r\n\r\n')
      const head = part.slice(0, at)
      const name = /content-disposition:[^\r\n]*\bname="([^"]*)"/i.exec(head)?.[1]
      if (at < 0 || name === undefined) return []
      const fileName = /content-disposition:[^\r\n]*\bfilename="([^"]*)"/i.exec(head)?.[1]
      const contentType = /content-type:\s*([^\r\n]+)/i.exec(head)?.[1]
      return [
        {
          name,
          value: part.slice(at + 4).replace(/\r\n$/, ''),
          ...(fileName ? { fileName } : {}),
          ...(contentType ? { contentType } : {}),
        },
      ]
    })
}

function latin1(base64: string): string {
  try {
    return atob(base64)
  }
  catch {
    return ''
  }
}

/** In pieces: a call with a million arguments is none. */
function base64Of(bytes: Uint8Array): string {
  let binary = ''
  for (let i = 0; i < bytes.length; i += 8192) binary += String.fromCharCode(...bytes.subarray(i, i + 8192))
  return btoa(binary)
}

function answerText(content: Record<string, unknown>, type: string): string | undefined {
  if (typeof content.text !== 'string') return undefined
  if (content.encoding !== 'base64') return content.text
  if (!TEXTUAL.test(type)) return undefined
  try {
    return new TextDecoder().decode(Uint8Array.from(atob(content.text), c => c.charCodeAt(0)))
  }
  catch {
    return undefined
  }
}

function pairs(list: unknown): Pair[] {
  return Array.isArray(list)
    ? list
        .map(objectOf)
        .map((h): Pair => [textOf(h.name), textOf(h.value)])
        .filter(([name]) => name !== '')
    : []
}
