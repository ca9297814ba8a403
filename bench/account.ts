/**
 * `account`: what reading a target's own figures costs. A page of 2,000 series of which 20 are chosen, against taking
 * all of it apart; and an hour of 100 series at 1 Hz: CPU as a share of a core, size of the file, the charts of it.
 */
import { mkdtempSync, rmSync, statSync } from 'node:fs'
import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { targetView } from '../control/target/target-view'
import { TargetFile } from '../control/store/target-file'
import { seededRandom } from '../core/random/seeded'
import { readMetricsPage } from '../core/target/metrics-page'
import { SourceReadings } from '../core/target/readings'
import type { SeriesChoice, Source } from '../core/target/source'
import { benchDocument, step } from './document'
import { median, tell } from './measure'

const OFFERED = 2000
const CHOSEN = 20
const SERIES = 100
const START = 1_800_000_000_000

/** A page as a service writes it: a name, two labels, a value; ten samples of a name. */
function pageOf(series: number, values: () => number): string {
  const lines: string[] = []
  for (let i = 0; i < series; i++) {
    if (i % 10 === 0) lines.push(`# TYPE metric_${i / 10} gauge`, `# HELP metric_${i / 10} What it is of.`)
    lines.push(`metric_${Math.floor(i / 10)}{node="node-${i % 10}",zone="a"} ${values().toFixed(3)}`)
  }
  return [...lines, '# EOF', ''].join('\n')
}

/** One of those that the page offers. */
export const offeredSeries = (i: number): SeriesChoice => ({
  name: `series ${i}`,
  of: `metric_${Math.floor(i / 10)}`,
  kind: 'gauge',
  labels: { node: `node-${i % 10}` },
})
const sourceOf = (series: number, every: number): Source => ({
  name: 'page',
  kind: 'metrics',
  address: 'http://127.0.0.1:1/metrics',
  everyS: 1,
  series: Array.from({ length: series }, (_, i) => offeredSeries(i * every)),
})

/** Serves such a page, and tells its parent where. */
export function serveMetricsPage(): void {
  const random = seededRandom(4)
  const server = createServer((_, answer) => {
    answer.setHeader('content-type', 'text/plain; version=0.0.4').end(pageOf(OFFERED, random))
  })
  server.listen(0, '127.0.0.1', () => process.send!((server.address() as AddressInfo).port))
  process.once('disconnect', () => process.exit(0))
}

export async function benchAccount(quick: boolean): Promise<void> {
  const random = seededRandom(3)
  readingOfOne(random, quick ? 20 : 200)
  await hour(random, quick ? 300 : 3600)
}

function readingOfOne(random: () => number, times: number): void {
  const readings = new SourceReadings(sourceOf(CHOSEN, OFFERED / CHOSEN), 1)
  const page = pageOf(OFFERED, random)
  const took = (work: () => void) =>
    median(Array.from({ length: times }, () => {
      const began = performance.now()
      work()
      return performance.now() - began
    }))
  const wholeMs = took(() => readMetricsPage(page))
  const chosenMs = took(() => readings.takePage(readMetricsPage(page, readings.wanted), START))
  tell({
    bench: 'account',
    case: `page of ${OFFERED} series read for ${CHOSEN} of them, against all taken apart`,
    value: chosenMs,
    unit: 'ms',
    reference: wholeMs,
    ratio: wholeMs / chosenMs,
    goal: 'value <= 20 ms',
  })
}

async function hour(random: () => number, lengthS: number): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'vornak-bench-'))
  const path = join(folder, 'target.db')
  const source = sourceOf(SERIES, 1)
  const names = source.series.map(s => s.name)
  const readings = new SourceReadings(source, 1)
  const file = new TargetFile(path)
  const before = process.cpuUsage()
  for (let s = 0; s < lengthS; s++) {
    const page = readMetricsPage(pageOf(SERIES, random), readings.wanted)
    const { points } = readings.takePage(page, START + s * 1000)
    file.add(source.name, names, points, { readings: s, failures: 0 }, readings.state)
  }
  const { user, system } = process.cpuUsage(before)
  file.close()
  const document = benchDocument('127.0.0.1:1', [step({ name: 'Look' })])
  const target = { ...document.target, sources: [source] }
  const run = { id: 1, document: { ...document, target }, state: 'settled' as const, startAt: START }
  const began = performance.now()
  await targetView(run, path, {}, false, START + lengthS * 1000)
  const viewMs = performance.now() - began
  const newsBegan = performance.now()
  await targetView(run, path, { sinceS: lengthS - 10 }, true, START)
  const newsMs = performance.now() - newsBegan
  const what = `${SERIES} series at 1 Hz for ${lengthS} s`
  const cpuMs = (user + system) / 1000
  const mb = statSync(path).size / 1e6
  tell({
    bench: 'account',
    case: `${what}: CPU of reading and keeping, against a core`,
    value: cpuMs,
    unit: 'ms',
    reference: lengthS * 1000,
    ratio: cpuMs / (lengthS * 1000),
    goal: '<= 0.02',
  })
  const rawMb = (SERIES * lengthS * 16) / 1e6
  tell({
    bench: 'account',
    case: `${what}: file, against two numbers a value`,
    value: mb,
    unit: 'MB',
    reference: rawMb,
    ratio: mb / rawMb,
    goal: `value <= ${(15 * lengthS) / 3600} MB`,
  })
  tell({
    bench: 'account',
    case: `${what}: the last 10 s asked for, against all of it`,
    value: newsMs,
    unit: 'ms',
    reference: viewMs,
    ratio: newsMs / viewMs,
    goal: 'value <= 20 ms',
  })
  rmSync(folder, { recursive: true, force: true })
}
