/** Runs beside each other, on real processes: the values are those of their own windows, and what differed is named. */
import { parse } from 'csv-parse/sync'
import type { CompareView, RunLine, TargetView, TrendView, WindowView } from '../../api/views'
import type { Plan } from '../../core/plan/document'
import { timeText } from '../../core/values/said-figures'
import { House } from '../build/house'
import { hill, journey, plan, step } from '../build/plans'

const think = { kind: 'uniform' as const, fromMs: 100, toMs: 300 }
const looking = journey({
  id: 'looking',
  name: 'Looking',
  round: [step({ name: 'Look', url: '/timetable', think }), step({ name: 'Ask', url: '/modules', think })],
})
const few: Plan = plan({
  targetId: 'enrolment-portal',
  rehearse: false,
  groups: [{ letter: 'A', name: 'Lookers', journeyId: 'looking', profile: hill(6, 1, 10, 1) }],
  locations: [{ code: 'REY', provider: 'nimbral', region: 'reyk', machineType: 'brisk-1', machines: 1 }],
  placement: { A: { REY: 'rest' } },
  objectives: [{ metric: 'p95', step: 'Look', atMost: 2000 }],
  targetFigures: { beforeS: 2 },
})

let house: House
const ids: number[] = []
beforeAll(async () => {
  const other: Plan = { ...few, seed: few.seed + 1, groups: [{ ...few.groups[0]!, profile: hill(12, 1, 10, 1) }] }
  house = await House.build({ plans: { few, other }, journeys: [looking] })
  for (const name of ['few', 'few', 'few', 'other']) {
    const id = await house.startPlan(name)
    await house.ended(id)
    ids.push(id)
  }
}, 400_000)
afterAll(() => house.close())

const compare = (runs: readonly number[], more = '') => house.get<CompareView>(`compare?runs=${runs.join(',')}${more}`)

it('has the values of each run’s own window, whichever road they came', async () => {
  const view = await compare([ids[0]!, ids[3]!])
  expect(view.runs.map(r => r.id)).toEqual([ids[0], ids[3]])
  for (const [i, { id, lengthS }] of view.runs.entries()) {
    const window = await house.get<WindowView>(`runs/${id}/window?from=0&to=${lengthS}`)
    const received = await house.receivedByStep(id)
    for (const { metric, subject, about, values } of view.rows.filter(r => !r.target)) {
      const own = values[i]!
      if (metric === 'failures') expect(own).toBe(window.total.failureShare)
      // The target’s own count, over the seconds it was sent in.
      else if (metric === 'throughput')
        expect(Math.round(own * lengthS)).toBe(Object.values(received).reduce((a, b) => a + b, 0))
      else if (about === 'all') expect(own).toBeCloseTo(window.total.p95Ms!, 9)
      else {
        const one = window.steps.find(s => s.step === subject.step)!
        expect(own).toBeCloseTo(one.figures.p95Ms!, 9)
      }
    }
  }
})

it('has the target’s own figures, line by line, from its readings in the same window', async () => {
  const view = await compare([ids[0]!, ids[3]!])
  const rows = view.rows.filter(r => r.target)
  expect(rows.map(r => r.target!.series)).toEqual(expect.arrayContaining(['connections', 'CPU', 'replicas']))
  const { values, others } = rows.find(r => r.target!.series === 'connections')!
  for (const [i, { id, lengthS }] of view.runs.entries()) {
    const account = await house.get<TargetView>(`runs/${id}/target?series=connections`)
    const { atS, values: read } = account.series[0]!.lines[0]!
    // Whole stretches of ten seconds.
    const toS = Math.floor(lengthS / 10) * 10
    const inside = read.filter((v, at): v is number => v !== null && atS[at]! >= 0 && atS[at]! < toS)
    expect(values[i]).toBeCloseTo(inside.reduce((a, b) => a + b, 0) / inside.length, 9)
  }
  // Twice the users.
  expect(Math.exp(others[0]!.difference!.by)).toBeGreaterThan(1.4)
  expect(others[0]!.standing).toBe('untold')
})

it('names what differed, and nothing where nothing did', async () => {
  const unlike = (view: CompareView) => view.setUp.filter(f => f.differs.some(Boolean)).map(f => f.what)
  expect(unlike(await compare([ids[0]!, ids[1]!]))).toEqual([])
  const view = await compare([ids[0]!, ids[3]!])
  expect(unlike(view)).toEqual(['load', 'seed'])
})

it('takes runs of the same set-up for its yardstick, and tells nothing of so short a load', async () => {
  const view = await compare([ids[0]!, ids[3]!])
  expect([...view.repeats].sort()).toEqual(ids.slice(0, 3))
  const all = view.rows.find(r => r.about === 'all' && r.metric === 'throughput')!
  expect(all.others[0]!.yardstick!.repeats).toHaveLength(3)
  // A run is not held against itself.
  const repeat = await compare([ids[0]!, ids[1]!])
  expect(repeat.rows[0]!.others[0]).not.toHaveProperty('yardstick')
  // Twelve seconds are one block.
  expect(all.others[0]!.standing).toBe('untold')
  expect(Math.exp(all.others[0]!.difference!.by)).toBeCloseTo(all.values[1]! / all.values[0]!, 9)
})

it('runs of another build are no repeats, and that is a difference', async () => {
  const about = { name: '', notes: '', tags: [], pinned: false, build: ' 7.3 ' }
  expect((await house.post(`runs/${ids[1]}/about`, about, 'PUT')).status).toBe(200)
  const view = await compare([ids[0]!, ids[1]!])
  expect(view.setUp.filter(f => f.differs[1])).toMatchObject([{ what: 'build under load', says: ['not said', '7.3'] }])
  expect([...view.repeats].sort()).toEqual([ids[0], ids[2]])
  // Named anew without a word of the build, it keeps it.
  const { build: _, ...named } = { ...about, name: 'second' }
  await house.post(`runs/${ids[1]}/about`, named, 'PUT')
  expect((await compare([ids[0]!, ids[1]!])).runs[1]).toMatchObject({ name: 'second', build: '7.3' })
})

it('refuses what cannot be compared, and says what to do', async () => {
  const refused = async (query: string) => {
    const answer = await fetch(`${house.url}/api/compare?${query}`)
    return { status: answer.status, ...((await answer.json()) as { code: string, remedy: string }) }
  }
  expect(await refused(`runs=${ids[0]}`)).toMatchObject({ status: 400, code: 'compare' })
  expect(await refused(`runs=${ids[0]},999`)).toMatchObject({ status: 404 })
  expect(await refused(`runs=${ids[0]},${ids[1]}&users=77`)).toMatchObject({ status: 400, code: 'compare' })
  expect(await refused(`runs=${ids[0]},${ids[1]}&metric=best`)).toMatchObject({ status: 400 })
})

it('is a file, too, with the same rows; of three runs each against the first', async () => {
  const runs = [ids[0]!, ids[1]!, ids[3]!]
  const view = await compare(runs)
  const ask = (form: string) => fetch(`${house.url}/api/compare/report.${form}?runs=${runs.join(',')}`)
  const text = await (await ask('md')).text()
  expect(text).toContain(`# Run ${runs[1]} and run ${runs[2]} against run ${runs[0]}`)
  for (const id of runs.slice(1)) expect(text).toContain(`## Run ${id} against run ${runs[0]}`)
  const p95 = view.rows.find(r => r.about === 'all' && r.metric === 'p95')!
  const told = text.split('\n').filter(line => line.startsWith('| **p95 of all requests**'))
  // Twice against the first, and once all together.
  expect(told).toHaveLength(3)
  expect(told[2]!.split('|').slice(2, -1).map(cell => cell.trim())).toEqual(p95.values.map(v => timeText(v)))
  expect(text).toMatch(/\| \*\*seed\*\* \|/)
  expect((await ask('pdf')).headers.get('content-disposition')).toContain(`runs-${runs.join('-')}-compared.pdf`)
  expect((await (await ask('html')).text()).startsWith('<!doctype html>')).toBe(true)
  expect((await fetch(`${house.url}/api/compare/report.md?runs=${runs[0]}`)).status).toBe(400)
})

it('is CSV, too, read by another’s parser: every figure of every run, with what is known of its difference', async () => {
  const runs = [ids[0]!, ids[1]!, ids[3]!]
  const view = await compare(runs)
  const text = await (await fetch(`${house.url}/api/compare/figures.csv?runs=${runs.join(',')}`)).text()
  const read = parse(text, { columns: true }) as Record<string, string>[]
  expect(read).toHaveLength(2 * view.rows.length)
  view.rows.forEach(({ metric, values, others }, r) => {
    for (const o of [0, 1]) {
      const own = read[o * view.rows.length + r]!
      expect([own.run, own.against, own.standing]).toEqual([String(runs[o + 1]), String(runs[0]), others[o]!.standing])
      expect([own.value_against, own.value]).toEqual([values[0], values[o + 1]].map(v => v === null ? '' : String(v)))
      const { by } = others[o]!.difference ?? {}
      if (by === undefined) expect(own.difference).toBe('')
      else if (metric === 'failures') expect(Number(own.difference)).toBeCloseTo(100 * by, 9)
      else expect(Number(own.difference)).toBeCloseTo(100 * (values[o + 1]! / values[0]! - 1), 6)
    }
  })
})

it('tells objectives over all runs of a plan, as each was judged', async () => {
  const { runs, lines, steps, planName } = await house.get<TrendView>('plans/few/trend')
  expect(runs.map(r => r.id)).toEqual(ids.slice(0, 3))
  expect(planName).toBe(few.name)
  // So short a load settles at no level: there are no seconds in which steps were alike.
  expect(steps).toBeUndefined()
  const judged = await Promise.all(ids.slice(0, 3).map(id => house.run(id)))
  expect(lines).toHaveLength(1)
  expect(lines[0]!.points.map(p => p.measured)).toEqual(judged.map(r => r.summary!.answer.judgements[0]!.measured))
  expect(lines[0]!.points.map(p => p.run)).toEqual(ids.slice(0, 3))
  expect((await fetch(`${house.url}/api/plans/none/trend`)).status).toBe(404)
})

it('holds later runs of a plan against the one that is its baseline, one at a time', async () => {
  const pin = (id: number, isBaseline = true) => house.post(`runs/${id}/baseline`, { isBaseline }, 'PUT')
  const lines = async () => {
    const all = await house.get<RunLine[]>('runs')
    return ids.map(id => all.find(r => r.id === id)!).map(r => (r.isBaseline ? 'is' : r.baseline))
  }
  const [first, second, third, other] = ids as [number, number, number, number]
  expect((await pin(second)).status).toBe(200)
  // Earlier ones, and those of another plan, are held against nothing.
  expect(await lines()).toEqual([undefined, 'is', second, undefined])
  expect((await pin(first)).status).toBe(200)
  expect(await lines()).toEqual(['is', first, first, undefined])
  expect((await house.run(first)).kept).toBe(true)

  // Its report says how it stands, with the figures of the comparison.
  const report = await (await fetch(`${house.url}/api/runs/${third}/report.md`)).text()
  const view = await compare([first, third])
  expect(report).toContain('## Against the baseline')
  const p95 = view.rows.find(r => r.about === 'all' && r.metric === 'p95')!
  const [, ours, theirs] = report
    .split('\n')
    .find(line => line.startsWith('| **p95 of all requests**'))!
    .split('|')
    .slice(1)
    .map(cell => cell.trim())
  expect([ours, theirs]).toEqual(p95.values.map(v => timeText(v)))
  expect(await (await fetch(`${house.url}/api/runs/${other}/report.md`)).text()).not.toContain('Against the baseline')

  expect((await pin(third, false)).status).toBe(200)
  expect(await lines()).toEqual(['is', first, first, undefined])
  await pin(first, false)
  expect(await lines()).toEqual([undefined, undefined, undefined, undefined])
  expect((await pin(999)).status).toBe(404)
})
