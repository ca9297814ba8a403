/**
 * What is handed on of a run, on real processes: reports, and figures for other programs. They are those of its windows
 * and of the target's own count, as Debian's metrics server and a CSV reader read them.
 */
import { execFileSync } from 'node:child_process'
import { parse } from 'csv-parse/sync'
import type { ReportView, RunView, WindowView } from '../../api/views'
import { SECTION_IDS, USUAL_WISH, type ReportWish, type SectionId } from '../../core/report/wish'
import { count, timeText } from '../../core/values/said-figures'
import { House } from '../build/house'
import { RealMetricsServer } from '../build/metrics-server'
import { hill, journey, plan, step } from '../build/plans'

const think = { kind: 'uniform' as const, fromMs: 100, toMs: 300 }
const looking = journey({
  id: 'looking',
  name: 'Looking',
  round: [step({ name: 'Look', url: '/timetable', think }), step({ name: 'Miss', url: '/nowhere', think })],
})
let house: House
let run: RunView
beforeAll(async () => {
  house = await House.build({
    plans: {
      few: plan({
        targetId: 'enrolment-portal',
        rehearse: false,
        groups: [{ letter: 'A', name: 'Lookers', journeyId: 'looking', profile: hill(6, 1, 8, 1) }],
        locations: [{ code: 'REY', provider: 'nimbral', region: 'reyk', machineType: 'brisk-1', machines: 1 }],
        placement: { A: { REY: 'rest' } },
        objectives: [{ metric: 'p95', step: 'Look', atMost: 2000 }],
      }),
    },
    journeys: [looking],
  })
  run = await house.ended(await house.startPlan('few'))
}, 180_000)
afterAll(() => house.close())

const only = (...ids: SectionId[]): ReportWish => ({
  ...USUAL_WISH,
  over: 'whole',
  sections: SECTION_IDS.map(id => ({ id, isShown: ids.includes(id) })),
})
const keep = (wish?: ReportWish) => house.post(`runs/${run.line.id}/report`, wish ? { wish } : {}, 'PUT')
const view = () => house.get<ReportView>(`runs/${run.line.id}/report`)
async function markdown(query = ''): Promise<string> {
  const answer = await fetch(`${house.url}/api/runs/${run.line.id}/report.md${query}`)
  return answer.text()
}
/** Cells of the row that begins so. */
const row = (text: string, first: string) =>
  text.split('\n').find(line => line.startsWith(`| **${first}`))!.split('|').slice(1, -1).map(cell => cell.replaceAll('**', '').trim())

it('tells of steps what their window does, and what the target itself has counted', async () => {
  await keep(only('steps', 'places', 'failures', 'evidence'))
  const { steps } = await house.get<WindowView>(`runs/${run.line.id}/window?from=0&to=${run.summary!.lengthS}`)
  const received = await house.receivedByStep(run.line.id)
  const text = await markdown()
  for (const name of ['Look', 'Miss']) {
    const { figures } = steps.find(s => s.step === name)!
    const [, p50, p95, p99, asked, failed] = row(text, name)
    expect([p50, p95, p99]).toEqual([figures.p50Ms, figures.p95Ms, figures.p99Ms].map(timeText))
    expect(asked).toBe(count(received[name]!))
    expect(failed).toBe(name === 'Miss' ? count(received.Miss!) : '–')
  }
  expect(row(text, 'wrong status 404')[1]).toBe(count(received.Miss!))
  expect(row(text, 'REY')[1]).toBe(count(Object.values(received).reduce((a, b) => a + b, 0)))
  expect(text).toContain(`Every one of ${count(run.summary!.ledger.merged.started)} requests`)
})

it('is kept with its run; a template is for others, and the usual one for all who chose nothing', async () => {
  const wish = { ...only('cost'), title: 'For the registrar', organisation: 'Ostervik University' }
  expect((await keep(wish)).status).toBe(200)
  expect(await view()).toMatchObject({ isOwn: true, wish })
  const named = { wish: { ...wish, sections: only('method').sections }, isUsual: true }
  expect((await house.post('report-templates/Short', named, 'PUT')).status).toBe(200)
  // A title is of one run.
  expect((await view()).templates).toMatchObject([{ name: 'Short', isUsual: true }])
  expect((await view()).templates[0]!.wish.title).toBeUndefined()
  expect(await markdown()).toContain('# For the registrar')
  const byTemplate = await markdown('?template=Short')
  expect(byTemplate).toContain(`# ${run.line.planName}`)
  expect(byTemplate).toContain('## How it was measured')
  expect(byTemplate).not.toContain('## Cost')
  await keep()
  expect(await view()).toMatchObject({ isOwn: false, wish: { organisation: 'Ostervik University' } })
  expect(await markdown()).toBe(byTemplate)
  expect((await house.post('report-templates/Short/remove', {})).status).toBe(200)
  expect((await view()).wish).toEqual(USUAL_WISH)
})

it('is offered as files that say what they are', async () => {
  for (const [form, type] of [['html', 'text/html'], ['pdf', 'application/pdf'], ['md', 'text/markdown']] as const) {
    const answer = await fetch(`${house.url}/api/runs/${run.line.id}/report.${form}`)
    expect(answer.headers.get('content-type')).toContain(type)
    expect(answer.headers.get('content-disposition')).toContain(`run-${run.line.id}-report.${form}`)
  }
})

it.each([
  ['a window that ends before it begins', { over: { fromS: 5, toS: 5 } }, 'window'],
  ['a logo that is no picture', { logo: 'data:image/png;base64,aGVsbG8=' }, 'report'],
  ['a section that there is not', { sections: [{ id: 'verdict', isShown: true }] }, 'form'],
])('refuses %s, and keeps what was there', async (_, wrong, code) => {
  const before = await view()
  expect(await keep({ ...USUAL_WISH, ...wrong } as ReportWish)).toMatchObject({ status: 400, body: { code } })
  expect(await view()).toEqual(before)
})

it('keeps no template without a name', async () => {
  const kept = await house.post('report-templates/%20', { wish: USUAL_WISH, isUsual: false }, 'PUT')
  expect(kept).toMatchObject({ status: 400, body: { code: 'report' } })
  expect((await view()).templates).toEqual([])
})

it('of no run, and by no template that there is, is none', async () => {
  expect((await fetch(`${house.url}/api/runs/999/report.html`)).status).toBe(404)
  expect((await fetch(`${house.url}/api/runs/${run.line.id}/report.md?template=None`)).status).toBe(404)
})

const receivedBy = async (id: number) => house.receivedByStep(id)
const total = (counts: Record<string, number>) => Object.values(counts).reduce((a, b) => a + b, 0)
const text = async (path: string) => (await fetch(`${house.url}/api/${path}`)).text()

it('gives figures as CSV: by one thing or two, which add up to the whole and to what the target received', async () => {
  const received = total(await receivedBy(run.line.id))
  for (const rows of ['step', 'location', 'step,location', 'network,group']) {
    const [head, whole, ...lines] = parse(await text(`runs/${run.line.id}/figures.csv?rows=${rows}`)) as string[][]
    expect(head!.slice(0, rows.split(',').length)).toEqual(rows.split(','))
    const [kind, started] = [head!.indexOf('kind'), head!.indexOf('started')]
    expect(Number(whole![started])).toBe(received)
    const counted = lines.filter(l => l[kind] === '' || l[kind] === 'request')
    expect(counted.reduce((sum, l) => sum + Number(l[started]), 0)).toBe(received)
  }
  for (const rows of ['step,step', 'moon', 'step,group,location', ''])
    expect((await fetch(`${house.url}/api/runs/${run.line.id}/figures.csv?rows=${rows},`)).status).toBe(400)
})

it('gives all of it as OpenMetrics, in which a text checker finds nothing to say', async () => {
  const page = await text(`runs/${run.line.id}/metrics`)
  expect(page.endsWith('# EOF\n')).toBe(true)
  // The checker knows the older form: families are called as their samples are, and info is a gauge.
  const older = page
    .replaceAll(/^# (TYPE|HELP) (\S+)( counter)?/gm, (line, of: string, name: string) =>
      page.includes(`# TYPE ${name} counter`) || page.includes(`# TYPE ${name} info`)
        ? line.replace(`${of} ${name}`, `${of} ${name}_${page.includes(`# TYPE ${name} info`) ? 'info' : 'total'}`)
        : line)
    .replaceAll(/_info info$/gm, '_info gauge')
    .replace(/^# EOF$/m, '')
  expect(execFileSync('promtool', ['check', 'metrics'], { input: older, encoding: 'utf8' })).toBe('')
  expect(page).toContain('vornak_held{run="1"} ')
  expect(page).toMatch(/vornak_objective_held\{run="1",objective="p95 of Look at most 2 s in holds",users="6",from_s="\d+"\} [01]\n/)
})

interface Found {
  metric: Record<string, string>
  value?: [number, string]
  values?: [number, string][]
}

it('is read by a metrics server while it loads, never runs backwards, and ends with what the target received', async () => {
  const id = await house.startPlan('few')
  const server = await RealMetricsServer.start([new URL(house.url).host], 1, `/api/runs/${id}/metrics`)
  const ask = async (query: string) => {
    const answer = await fetch(`${server.address}/api/v1/query?query=${encodeURIComponent(query)}`)
    return ((await answer.json()) as { data: { result: Found[] } }).data.result
  }
  try {
    await house.ended(id)
    // It reads once more what has settled.
    await new Promise(r => setTimeout(r, 3000))
    const received = await receivedBy(id)
    const sums = await ask('sum by (step) (vornak_requests_total)')
    expect(Object.fromEntries(sums.map(s => [s.metric.step, Number(s.value![1])]))).toEqual(received)
    const courses = await ask('vornak_requests_total[5m]')
    expect(courses.length).toBeGreaterThan(0)
    for (const { values } of courses) {
      const counts = values!.map(v => Number(v[1]))
      expect(counts).toEqual([...counts].sort((a, b) => a - b))
    }
    // It grew while it loaded, in several readings.
    expect(new Set(courses.flatMap(c => c.values!.map(v => v[1]))).size).toBeGreaterThan(4)
    const users = await ask('max_over_time(sum(vornak_users)[5m:1s])')
    expect(Number(users[0]!.value![1])).toBe(6)
    const { steps } = await house.get<WindowView>(`runs/${id}/window?from=0&to=${(await house.run(id)).summary!.lengthS}`)
    const [p95] = await ask('vornak_response_seconds{step="Look",quantile="0.95"}')
    expect(Number(p95!.value![1]) * 1000).toBeCloseTo(steps.find(s => s.step === 'Look')!.figures.p95Ms!, 6)
  }
  finally {
    await server.stop()
  }
}, 120_000)
