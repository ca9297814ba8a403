/** Words and figures of journeys. */
import type { RequestPart, ThinkTime } from '../../core/journey/journey'
import { readLength } from './durations'

export function seconds(ms: number): string {
  return `${Number((ms / 1000).toFixed(2))} s`
}

export function thinkText(think: ThinkTime): string {
  switch (think.kind) {
    case 'none':
      return 'no pause'
    case 'fixed':
      return seconds(think.ms)
    case 'uniform':
      return `${seconds(think.fromMs).replace(' s', '')} to ${seconds(think.toMs)}`
    case 'normal':
      return `${seconds(think.meanMs).replace(' s', '')} ± ${seconds(think.deviationMs)}`
  }
}

/**
 * Reads `1.5 s`, `1 to 3`, `2 ± 0.5 s`, `1 to 2 min`, `none`; what has no unit has that of what follows, or is seconds.
 *
 * @returns undefined when it is none of them
 */
export function readThink(text: string): ThinkTime | undefined {
  const t = text.trim().toLowerCase()
  if (/^(|0|none|no pause)$/.test(t)) return { kind: 'none' }
  const [first = '', sign, second] = t.replace(/^about\s+/, '').replace(/,\s/, ' ').split(/\s*(to|-|–|±|\+\/?-)\s*/)
  const unit = /[a-z]+\s*$/.exec(second ?? first)?.[0] ?? 's'
  const ms = (part: string) => {
    const read = readLength(/[a-z]\s*$/.test(part) ? part : `${part} ${unit}`)
    return typeof read === 'string' ? undefined : read
  }
  const a = ms(first)
  if (a === undefined) return undefined
  if (second === undefined) return { kind: 'fixed', ms: a }
  const b = ms(second)
  if (b === undefined) return undefined
  if (sign !== 'to' && sign !== '-' && sign !== '–') return { kind: 'normal', meanMs: a, deviationMs: b }
  return b >= a ? { kind: 'uniform', fromMs: a, toMs: b } : undefined
}

export function pathText(part: Pick<RequestPart, 'url' | 'query'>): string {
  return part.url + (part.query?.length ? `?${part.query.map(([n, v]) => `${n}=${v}`).join('&')}` : '')
}
