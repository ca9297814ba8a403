/** Writes OpenMetrics text, version 1.0.0 (https://github.com/prometheus/OpenMetrics, specification/OpenMetrics.md). */

export type Labels = Readonly<Record<string, string | number>>

export interface MetricFamily {
  /** Without the suffix of its samples; with its unit at the end where it has one. */
  name: string
  type: 'counter' | 'gauge' | 'summary' | 'info' | 'stateset'
  unit?: string
  help: string
  /** `suffix`: `_total`, `_info`, `_count`, `_sum`, or none. */
  samples: { suffix?: string, labels: Labels, value: number }[]
}

export const OPEN_METRICS = 'application/openmetrics-text; version=1.0.0; charset=utf-8'

export function openMetricsText(families: readonly MetricFamily[]): string {
  return `${families.filter(f => f.samples.length > 0).flatMap(familyLines).join('\n')}\n# EOF\n`
}

function familyLines({ name, type, unit, help, samples }: MetricFamily): string[] {
  return [
    `# TYPE ${name} ${type}`,
    ...(unit ? [`# UNIT ${name} ${unit}`] : []),
    `# HELP ${name} ${escaped(help)}`,
    ...samples.map(({ suffix = '', labels, value }) => `${name}${suffix}${labelText(labels)} ${value}`),
  ]
}

function labelText(labels: Labels): string {
  const told = Object.entries(labels).map(([name, value]) => `${name}="${escaped(String(value))}"`)
  return told.length > 0 ? `{${told.join(',')}}` : ''
}

const escaped = (text: string) => text.replaceAll('\\', '\\\\').replaceAll('"', '\\"').replaceAll('\n', '\\n')
