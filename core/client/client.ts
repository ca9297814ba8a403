/** A client: headers by which a user's program tells the target what it is. */

export interface Client {
  /** Lower-case letters, digits and hyphens; plans name it by this. */
  id: string
  name: string
  /** Sent with every request that does not write the header itself, as they stand. */
  headers: [name: string, value: string][]
  /** Where the values come from. */
  source?: string
}

/** The client of a user to whom no headers are added. */
export const PLAIN = 'plain'

const MOST_CLIENT_HEADERS = 30
const MOST_VALUE = 2000

/** What a header is that is the connection's, the body's or the run's own business. */
const NOT_A_CLIENTS =
  /^(host|connection|keep-alive|upgrade|te|trailer|transfer-encoding|expect|content-.*|cookie|traceparent|tracestate|vornak-.*)$/i
/** `token` of RFC 9110, 5.6.2. */
const TOKEN = /^[!#$%&'*+.^_`|~0-9A-Za-z-]+$/
/** `field-value` of RFC 9110, 5.5, without what is not ASCII. */
const VALUE = /^[\x21-\x7e]([\t\x20-\x7e]*[\x21-\x7e])?$/

/** Something of a client that cannot be, and why. @property header its place in the list */
export interface ClientFault {
  field: 'id' | 'name' | 'headers'
  header?: number
  sentence: string
}

export function faultsOfClient({ id, name, headers }: Client): ClientFault[] {
  const faults: ClientFault[] = []
  if (id === PLAIN) faults.push({ field: 'id', sentence: '“plain” is the name for no client: choose another.' })
  else if (!/^[a-z0-9][a-z0-9-]{0,39}$/.test(id))
    faults.push({ field: 'id', sentence: 'The short name takes lower-case letters, digits and hyphens, at most 40.' })
  if (name.trim() === '') faults.push({ field: 'name', sentence: 'Give the client a name.' })
  if (headers.length === 0)
    faults.push({ field: 'headers', sentence: 'A client is known by its headers: write one at least.' })
  if (headers.length > MOST_CLIENT_HEADERS)
    faults.push({ field: 'headers', sentence: `A client has at most ${MOST_CLIENT_HEADERS} headers.` })
  const seen = new Set<string>()
  headers.forEach(([header, value], at) => {
    const fault = faultOfHeader(header, value, seen)
    if (fault) faults.push({ field: 'headers', header: at, sentence: fault })
    seen.add(header.toLowerCase())
  })
  return faults
}

function faultOfHeader(name: string, value: string, seen: ReadonlySet<string>): string | undefined {
  if (!TOKEN.test(name)) return `“${name}” is no name of a header: letters, digits and hyphens, no spaces.`
  if (NOT_A_CLIENTS.test(name)) return `“${name}” is not a client’s to say: connection, body and run have it.`
  if (seen.has(name.toLowerCase())) return `“${name}” is there twice: write its values behind each other, with commas.`
  if (value.length > MOST_VALUE) return `The value of “${name}” is longer than ${MOST_VALUE} characters.`
  if (!VALUE.test(value)) return `The value of “${name}” must be ASCII, without a space at either end, and not empty.`
  return undefined
}
