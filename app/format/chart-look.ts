/** What all charts have in common. */
import type { Colours } from '~/composables/chart-colours'

export const FONT = { fontFamily: 'Archivo Variable', fontSize: 11 }

/** From nothing up, its unit over it. */
export const valueAxis = (unit: string, c: Pick<Colours, 'quiet' | 'hair'>) => ({
  type: 'value',
  min: 0,
  name: unit,
  nameTextStyle: { ...FONT, color: c.quiet, align: 'right' },
  splitLine: { lineStyle: { color: c.hair } },
  axisLabel: { ...FONT, color: c.quiet, formatter: (n: number) => String(Number(n.toPrecision(3))) },
})

/** A limit over all of a chart, up to there. A mark would take the colour of dots that were drawn before it. */
export function limitLine(limit: number, furthest: number, c: Colours) {
  return {
    type: 'line',
    silent: true,
    symbol: 'none',
    z: 5,
    data: [[0, limit], [furthest, limit]],
    lineStyle: { color: c.brick, width: 1.2 },
  }
}
