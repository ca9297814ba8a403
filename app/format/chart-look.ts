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
