/** Words and figures of journeys. */
import type { RequestPart, ThinkTime } from '../../core/journey/journey'

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

/** Reads `1.5`, `1 to 3`, `2 ± 0.5`, `none`: seconds. @returns undefined when it is none of them */
export function readThink(text: string): ThinkTime | undefined {
  const t = text
    .trim()
    .toLowerCase()
    .replace(/(\d),(\d)/g, '$1.$2')
    .replace(/\bs\b|,/g, '')
    .trim()
  if (t === '' || t === '0' || t === 'none' || t === 'no pause') return { kind: 'none' }
  const ms = (n: string) => Math.round(Number(n) * 1000)
  const [, from, to] = /^([\d.]+)\s*(?:to|-|–)\s*([\d.]+)$/.exec(t) ?? []
  if (from !== undefined && to !== undefined)
    return ms(to) >= ms(from) ? { kind: 'uniform', fromMs: ms(from), toMs: ms(to) } : undefined
  const [, mean, deviation] = /^(?:about\s*)?([\d.]+)\s*(?:±|\+-|\+\/-)\s*([\d.]+)$/.exec(t) ?? []
  if (mean !== undefined && deviation !== undefined)
    return { kind: 'normal', meanMs: ms(mean), deviationMs: ms(deviation) }
  const [, fixed] = /^([\d.]+)$/.exec(t) ?? []
  return fixed !== undefined && Number.isFinite(Number(fixed)) ? { kind: 'fixed', ms: ms(fixed) } : undefined
}

export function pathText(part: Pick<RequestPart, 'url' | 'query'>): string {
  return part.url + (part.query?.length ? `?${part.query.map(([n, v]) => `${n}=${v}`).join('&')}` : '')
}
