/** Takes secrets out of texts, also where they stand in an encoded form. */

export type Mask = (text: string) => string

const MASKED = '•••'
/** Shorter secrets would mask half of every text. */
const LEAST_CHARACTERS = 3

export function maskOf(secrets: Readonly<Record<string, string>>): Mask {
  const forms = [
    ...new Set(
      Object.values(secrets)
        .filter(s => s.length >= LEAST_CHARACTERS)
        .flatMap(secret => [
          secret,
          encodeURIComponent(secret),
          new URLSearchParams({ s: secret }).toString().slice(2),
          JSON.stringify(secret).slice(1, -1),
          Buffer.from(secret).toString('base64').replace(/=+$/, ''),
          Buffer.from(secret).toString('base64url'),
          Buffer.from(secret).toString('hex'),
        ]),
    ),
  ].sort((a, b) => b.length - a.length)
  return text =>
    forms.reduce((masked, form) => (masked.includes(form) ? masked.replaceAll(form, MASKED) : masked), text)
}
