/**
 * Mixes as typed: names and their parts in percent, `city-fibre 70, copper-line 30`. A name without a number takes what
 * is left; what is left over has none.
 */

/** Basis points by id. */
export type Mix = Record<string, number>

/** Something as it is called: by its id or its name. */
export interface Named {
  id: string
  name: string
}

export type MixReading = { ok: true, mix: Mix } | { ok: false, problem: string }

/** @param what they are, in the singular */
export function readMix(text: string, known: readonly Named[], what: string): MixReading {
  const mix: Mix = {}
  let left = 10_000
  // A comma between two digits is a decimal one.
  for (const part of text
    .split(/,(?!\d)|(?<!\d),|\+/)
    .map(p => p.trim())
    .filter(Boolean)) {
    // The pattern takes any text.
    const [, name = '', percent] = /^(.*?)\s*(\d+(?:[.,]\d+)?)?\s*%?$/.exec(part)!
    const found = find(name, known)
    if (!found) return { ok: false, problem: `There is no ${what} “${name}”: ${known.map(n => n.id).join(', ')}` }
    const bp = percent === undefined ? left : Math.round(Number(percent.replace(',', '.')) * 100)
    if (bp > left) return { ok: false, problem: `The ${what}s add up to more than 100 %` }
    mix[found.id] = (mix[found.id] ?? 0) + bp
    left -= bp
  }
  return { ok: true, mix }
}

export function printMix(mix: Mix): string {
  const parts = Object.entries(mix).filter(([, bp]) => bp > 0)
  return parts.map(([id, bp]) => (bp === 10_000 ? id : `${id} ${bp / 100}`)).join(', ')
}

function find(name: string, known: readonly Named[]): Named | undefined {
  const wanted = name.toLowerCase()
  const exact = known.find(n => n.id === wanted || n.name.toLowerCase() === wanted)
  if (exact || wanted === '') return exact
  const begun = known.filter(n => n.id.startsWith(wanted) || n.name.toLowerCase().startsWith(wanted))
  return begun.length === 1 ? begun[0] : undefined
}
