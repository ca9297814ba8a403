/** Figures as people read them: thin spaces in thousands, a unit always. */

const THIN = '\u2009'

/** 1 164 */
export function count(n: number): string {
  return String(Math.round(n)).replace(/\B(?=(\d{3})+$)/g, THIN)
}

/** `412 /s`, one decimal below 10. */
export function rate(n: number): string {
  return n > 0 && n < 10 ? n.toFixed(1) : count(n)
}

/** Milliseconds as the number and its unit: `["1.12", "s"]`, `["312", "ms"]`. */
export function time(ms: number | null | undefined): [value: string, unit: string] {
  if (ms === null || ms === undefined) return ['–', '']
  if (ms >= 10_000) return [(ms / 1000).toFixed(1), 's']
  if (ms >= 1000) return [(ms / 1000).toFixed(2), 's']
  if (ms >= 100) return [ms.toFixed(0), 'ms']
  return [ms >= 10 ? ms.toFixed(1) : ms.toFixed(2), 'ms']
}

export function timeText(ms: number | null | undefined): string {
  return time(ms).join(' ').trim()
}

/** Share 0–1 as `0.42 %`; undefined as a dash. */
export function share(x: number | undefined, digits = 2): string {
  return x === undefined ? '–' : `${Number((x * 100).toFixed(digits))} %`
}

/** Basis points as `40 %`. */
export function basisPoints(bp: number): string {
  return `${Number((bp / 100).toFixed(2))} %`
}

/** `€0.84`, with three decimals where whole cents would hide a small amount. */
export function euro(amount: number): string {
  const hides = amount > 0 && amount < 0.1 && Math.abs(amount * 100 - Math.round(amount * 100)) > 0.05
  return `€${amount.toFixed(hides ? 3 : 2)}`
}

export function bytes(n: number): string {
  if (n >= 1e9) return `${(n / 1e9).toFixed(1)} GB`
  if (n >= 1e6) return `${(n / 1e6).toFixed(1)} MB`
  return n >= 1000 ? `${(n / 1000).toFixed(1)} kB` : `${n} B`
}

/** Larger values are told without decimals. */
const WHOLE_FROM = 100

/** A figure with a unit of its own, to three digits. */
export function figureText(value: number | null | undefined, unit = ''): string {
  if (value === null || value === undefined) return '–'
  const told = Math.abs(value) >= WHOLE_FROM ? count(Math.round(value)) : String(Number(value.toPrecision(3)))
  return unit === '' ? told : `${told} ${unit}`
}
