/** Figures of a target's own, with the unit its series has. */
import { count } from './figures'

/** Larger values are told without decimals. */
const WHOLE_FROM = 100

export function figureText(value: number | null | undefined, unit = ''): string {
  if (value === null || value === undefined) return '–'
  const told = Math.abs(value) >= WHOLE_FROM ? count(Math.round(value)) : String(Number(value.toPrecision(3)))
  return unit === '' ? told : `${told} ${unit}`
}

/** How a clock is off ours: “12 ms ahead ± 1 ms”. @param offsetMs ahead of ours */
export function clockText(offsetMs: number, uncertaintyMs: number): string {
  const off = Math.round(Math.abs(offsetMs))
  return `${off} ms ${offsetMs < 0 ? 'behind' : 'ahead'} ± ${Math.ceil(uncertaintyMs)} ms`
}
