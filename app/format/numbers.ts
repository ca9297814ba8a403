/** Numbers as people type them: “12,5” as well as “12.5”, with spaces between thousands, with or without their unit. */

/** What was typed, as a number; or the sentence that says why it is none. */
export type ReadNumber = number | string

export interface NumberBounds {
  min?: number
  max?: number
  /** Only whole ones. */
  whole?: boolean
}

/** @returns the number, or what is wrong with it and what would be right */
export function readNumber(text: string, { min, max, whole = false }: NumberBounds = {}): ReadNumber {
  const bare = text.replace(/[\s\u00a0\u202f]/g, '').replace('−', '-')
  if (/^[+-]?\d{1,3}(,\d{3})+$/.test(bare))
    return `“${text.trim()}” may be ${bare.replaceAll(',', '')} or ${bare.replace(',', '.')}: write it without the comma.`
  if (!/^[+-]?(\d+([.,]\d*)?|[.,]\d+)$/.test(bare)) return `“${text.trim()}” is no number${range(min, max)}.`
  const number = Number(bare.replace(',', '.'))
  if (whole && !Number.isInteger(number)) return `${text.trim()} is not whole${range(min, max)}.`
  if (number < (min ?? -Infinity)) return `${text.trim()} is less than ${min}.`
  if (number > (max ?? Infinity)) return `${text.trim()} is more than ${max}.`
  return number
}

function range(min: number | undefined, max: number | undefined): string {
  if (min !== undefined && max !== undefined) return `: write one from ${min} to ${max}`
  if (min !== undefined) return `: write one of ${min} or more`
  return max === undefined ? '' : `: write one up to ${max}`
}

/** For an input: hands on what was typed as a number. @returns whether it could be taken, or why not */
export function takeNumber(text: string, bounds: NumberBounds, take: (n: number) => void): true | string {
  const read = readNumber(text, bounds)
  if (typeof read === 'string') return read
  take(read)
  return true
}
