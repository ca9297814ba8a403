/** A chart as a picture that needs no screen. */
import type { EChartsCoreOption } from 'echarts/core'

/** @param option as it is drawn @param size px @returns SVG, in the colours it has on the screen */
export async function chartSvg(
  option: EChartsCoreOption,
  size: { width: number, height: number },
): Promise<string> {
  const [{ init, use }, { SVGRenderer }] = await Promise.all([import('echarts/core'), import('echarts/renderers')])
  use([SVGRenderer])
  const chart = init(null, undefined, { renderer: 'svg', ssr: true, ...size })
  try {
    chart.setOption(option)
    return chart.renderToSVGString()
  }
  finally {
    chart.dispose()
  }
}
