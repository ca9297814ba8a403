/**
 * Access logs in the common and the combined form, as web servers write them: host, identity, user, time, request line,
 * status, bytes; in the combined form referrer and browser. The form is the trade's (common practice, no source). Where
 * a server was told to add how long it took, that is the last field: seconds with a fraction, or whole microseconds.
 */
import type { ClaimedSample } from './sample'

const LINE
  = /^(\S+) \S+ (\S+) \[(\d\d)\/([A-Z][a-z]{2})\/(\d{4}):(\d\d:\d\d:\d\d) ([+-]\d\d)(\d\d)\] "((?:[^"\\]|\\.)*)" (\d{3}) (\d+|-)(?: "(?:[^"\\]|\\.)*" "(?:[^"\\]|\\.)*")?(.*)$/
const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec']

/** Steps are called by method and path without its query; what looks like a number or an id in it is put aside. */
export function stepOfRequest(method: string, path: string): string {
  const plain = (path.split(/[?#]/)[0] ?? '')
    .split('/')
    .map(part => (/^\d+$|^[0-9a-f]{8,}(-[0-9a-f]{4,})*$/i.test(part) ? '{id}' : part))
    .join('/')
  return `${method} ${plain || '/'}`.slice(0, 200)
}

/** @returns what is wrong with the line, in words, when it is none */
export function readAccessLine(line: string): ClaimedSample | string {
  const parts = LINE.exec(line)
  if (!parts) return 'it is no line of an access log in the common or combined form'
  const [, , user = '-', day, month = '', year, clock, hours, minutes, request = '', status, bytes, rest = ''] = parts
  const at = MONTHS.indexOf(month)
  const receivedMs = at < 0 ? Number.NaN : Date.parse(`${year}-${String(at + 1).padStart(2, '0')}-${day}T${clock}${hours}:${minutes}`)
  if (!Number.isFinite(receivedMs)) return `“${day}/${month}/${year}” is no date`
  const [method = '', path = ''] = request.split(' ')
  const took = durationAtEnd(rest)
  return {
    step: /^[A-Z]+$/.test(method) ? stepOfRequest(method, path) : 'no HTTP request',
    beganMs: receivedMs,
    durationMs: took,
    ok: Number(status) < 400,
    status: Number(status),
    bytes: bytes === '-' ? 0 : Number(bytes),
    sent: 0,
    place: '',
    user: user === '-' ? '' : user,
    users: -1,
    message: '',
  }
}

/** ms; undefined: the line does not end in a number. */
function durationAtEnd(rest: string): number | undefined {
  const written = /(?:^|[\s="])(\d+(?:\.\d+)?)"?\s*$/.exec(rest)?.[1]
  if (written === undefined) return undefined
  return written.includes('.') ? Number(written) * 1000 : Number(written) / 1000
}
