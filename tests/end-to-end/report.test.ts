/** Reports of a run on real processes: their figures are those of the window and of the target's own count. */
import type { ReportView, RunView, WindowView } from '../../api/views'
import { SECTION_IDS, USUAL_WISH, type ReportWish, type SectionId } from '../../core/report/wish'
import { count, timeText } from '../../core/values/said-figures'
import { House } from '../build/house'
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

it('of no run, and by no template that there is, is none', async () => {
  expect((await fetch(`${house.url}/api/runs/999/report.html`)).status).toBe(404)
  expect((await fetch(`${house.url}/api/runs/${run.line.id}/report.md?template=None`)).status).toBe(404)
})
