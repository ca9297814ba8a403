/**
 * Keys and passwords in a capture: the person who recorded it was signed in. They belong to the target's secrets, not
 * into a journey that others read.
 */
import { fieldsOf, freeName } from './dynamic-values'
import type { HarEntry } from './har'

export interface Credential {
  /** Name among the target's secrets. */
  name: string
  value: string
  sentAs: string
  /** Indices of the entries that send it. */
  sentIn: number[]
  requests: number
}

/** Headers that carry a key, and fields that carry a password. Common practice, no source. */
const KEY_HEADER =
  /^(authorization|proxy-authorization|x-auth|(x-)?(api|access|app|auth|client|functions|subscription)[-_]?(key|token|secret)|.*-(api|subscription)-key|x-.*-token)$/i
const SECRET_FIELD =
  /^(password|passwd|pass|pwd|passphrase|secret|client_secret|api_?key|access_?token|refresh_?token|pin|otp)$/i
const SCHEME = /^(Bearer|Token|Basic|Digest|ApiKey)\s+/i

/** @param answered values that an answer gave: those are captured, and are nobody's secret */
export function findCredentials(entries: readonly HarEntry[], answered: ReadonlySet<string>): Credential[] {
  const found = new Map<string, Credential>()
  const names = new Map<string, number>()
  const note = (entry: HarEntry, name: string, value: string, sentAs: string) => {
    if (value.trim() === '' || answered.has(value)) return
    let of = found.get(value)
    if (!of)
      found.set(
        value,
        (of = {
          name: freeName(name.replace(/^x-/i, '').toLowerCase(), names, 'secret'),
          value,
          sentAs,
          sentIn: [],
          requests: 0,
        }),
      )
    if (of.sentIn.at(-1) !== entry.index) {
      of.sentIn.push(entry.index)
      of.requests++
    }
  }
  for (const entry of entries) {
    for (const [name, value] of entry.headers)
      if (KEY_HEADER.test(name))
        note(
          entry,
          name.toLowerCase() === 'authorization'
            ? SCHEME.exec(value)?.[1]?.toLowerCase() === 'basic'
              ? 'basic_login'
              : 'access_token'
            : name,
          value.replace(SCHEME, ''),
          `header ${name}`,
        )
    for (const [name, value] of entry.url.searchParams)
      if (SECRET_FIELD.test(name)) note(entry, name, value, `query ${name}`)
    for (const [name, value] of sentFields(entry))
      if (SECRET_FIELD.test(name)) note(entry, name, value, `field ${name}`)
  }
  return [...found.values()]
}

function sentFields({ sent }: HarEntry): [name: string, value: string][] {
  if (!sent) return []
  if (!sent.type.includes('json')) return fieldsOf(sent)
  try {
    const body: unknown = JSON.parse(sent.text)
    return typeof body === 'object' && body !== null
      ? Object.entries(body).filter((e): e is [string, string] => typeof e[1] === 'string')
      : []
  }
  catch {
    return []
  }
}
