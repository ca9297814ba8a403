/** Whom reports are mailed to. */

/** Of a plan, or at once. */
export const MOST_MAILED = 20

/** One address, without a name beside it. */
export const MAIL_ADDRESS = {
  type: 'string',
  maxLength: 254,
  pattern: '^[^\\s@<>",;:()\\[\\]\\\\]+@[A-Za-z0-9][A-Za-z0-9.-]*$',
  description: 'an address like ana@example.org',
} as const

const WRITTEN = new RegExp(MAIL_ADDRESS.pattern)

/** Addresses with commas, spaces or ends of lines between. @returns the first that is none, or all of them */
export function readAddresses(text: string): { addresses: string[] } | { fault: string } {
  const addresses = [...new Set(text.split(/[\s,;]+/).filter(Boolean))]
  const fault = addresses.find(a => a.length > MAIL_ADDRESS.maxLength || !WRITTEN.test(a))
  return fault === undefined ? { addresses } : { fault }
}
