/**
 * Takes secrets out of texts, also where they stand in an encoded form, or where a text was cut within one; and what
 * proves who one is out of headers, whatever made it.
 */

export type Mask = (text: string) => string

const MASKED = '•••'
/** Shorter secrets would mask half of every text. */
const LEAST_CHARACTERS = 3
/** So much of a form's beginning at the end of a text is taken for the form, cut. */
const LEAST_OF_CUT = 6

/** @param secrets values by name */
export function maskOf(secrets: Readonly<Record<string, string>>): Mask {
  const forms = [
    ...new Set(
      Object.values(secrets)
        .filter(s => s.length >= LEAST_CHARACTERS)
        .flatMap(formsOf)
        .filter(form => form.length >= LEAST_CHARACTERS),
    ),
  ].sort((a, b) => b.length - a.length)
  return text =>
    forms.reduce(
      (masked, form) => withoutCut(masked.includes(form) ? masked.replaceAll(form, MASKED) : masked, form),
      text,
    )
}

/** How a secret may be written where it is sent, or sent back. */
function formsOf(secret: string): string[] {
  const percent = encodeURIComponent(secret)
  const form = new URLSearchParams({ s: secret }).toString().slice(2)
  const json = JSON.stringify(secret).slice(1, -1)
  const hex = Buffer.from(secret).toString('hex')
  return [
    secret,
    percent,
    percent.replaceAll(/%[0-9A-F]{2}/g, c => c.toLowerCase()),
    form,
    json,
    json.replaceAll('/', '\\/'),
    json.replaceAll(/[^\0-\x7F]/g, c => `\\u${c.charCodeAt(0).toString(16).padStart(4, '0')}`),
    // Entities of XML 1.0 (4.6), and the two ways HTML writes an apostrophe.
    ...['&#39;', '&apos;', '&#x27;'].map(apostrophe => entities(secret, apostrophe)),
    hex,
    hex.toUpperCase(),
    Buffer.from(secret).toString('base64').replace(/=+$/, ''),
    Buffer.from(secret).toString('base64url'),
    ...base64Within(secret),
  ]
}

function entities(text: string, apostrophe: string): string {
  return text
    .replaceAll('&', '&amp;')
    .replaceAll('<', '&lt;')
    .replaceAll('>', '&gt;')
    .replaceAll('"', '&quot;')
    .replaceAll('\'', apostrophe)
}

/**
 * The middle of a secret as base64 has it (RFC 4648), whatever stands before and behind: three characters of a text are
 * four of base64, so it may begin in three ways. In `user:secret` it begins anywhere.
 */
function base64Within(secret: string): string[] {
  return [0, 1, 2].flatMap((before) => {
    const bytes = Buffer.concat([Buffer.alloc(before), Buffer.from(secret)])
    const whole = bytes.length - (bytes.length % 3)
    // Characters that depend on what is before or behind it are left out.
    const from = before === 0 ? 0 : 4
    return (['base64', 'base64url'] as const).map(alphabet =>
      bytes.subarray(0, whole).toString(alphabet).slice(from),
    )
  })
}

/** A text may have been cut within what must not be seen. */
function withoutCut(text: string, form: string): string {
  for (let n = Math.min(form.length - 1, text.length); n >= LEAST_OF_CUT; n--)
    if (text.endsWith(form.slice(0, n))) return text.slice(0, -n) + MASKED
  return text
}

/** Headers whose value proves who one is (RFC 9110, 11; names that are common practice, no source). */
const AUTHORIZATION = /^(proxy-)?authorization$/i
const CREDENTIALS = /^x-(api-key|auth-token|access-token|csrf-token|xsrf-token)$|^(api|access)-?key$/i

/** A header's value as it is kept: schemes, names and attributes may be seen, what proves who one is not. */
export function maskedHeader(name: string, value: string): string {
  if (AUTHORIZATION.test(name)) return value.replace(/^(\S+\s+)?[^]*$/, `$1${MASKED}`)
  if (CREDENTIALS.test(name)) return MASKED
  if (/^cookie$/i.test(name)) return value.replaceAll(/=[^;]*/g, `=${MASKED}`)
  if (/^set-cookie$/i.test(name)) return value.replace(/=[^;]*/, `=${MASKED}`)
  return value
}
