/** What reports of runs say: in which order, of what, and with which words where there is nothing to say. */
import { reportOfRun } from '../../core/report/of-run'
import type { Block, Table } from '../../core/report/report'
import { slowestAndFailing, windowWords } from '../../core/report/sections/figures'
import { allSections, SECTION_IDS, USUAL_WISH, type ReportWish } from '../../core/report/wish'
import { reportedRun, stepRow } from '../build/reported-run'

const everything: ReportWish = { ...USUAL_WISH, sections: SECTION_IDS.map(id => ({ id, isShown: true })) }
const report = reportOfRun(reportedRun, everything)
const section = (id: string, of = report) => of.sections.find(s => s.id === id)!
const tableOf = (id: string, of = report) => section(id, of).blocks.find((b): b is Table => b.kind === 'table')!
const wordsOf = (blocks: readonly Block[]): string =>
  blocks.map(b => (b.kind === 'text' ? b.text : b.kind === 'list' ? b.items.map(i => i.text).join('\n') : '')).join('\n')

it('is called by its plan, its question and its moment, where nobody calls it otherwise', () => {
  expect(report).toMatchObject({
    title: reportedRun.document.plan.name,
    subtitle: 'Does it hold?',
    about: 'Run 7, before the sale, build 4.2.0 · 26 Nov 2026 08:00 UTC',
    answer: { verdict: 'broken', sentence: 'No: p95 of Ask 1.20 s at 20 users.', why: 'Worst from TAV.' },
  })
  expect(reportOfRun(reportedRun, { ...everything, title: ' For the registrar ', subtitle: '  ' })).toMatchObject({
    title: 'For the registrar',
    subtitle: 'Does it hold?',
  })
})

describe('sections', () => {
  it('stand in the order that is wished; what is switched off, or not named, is not there', () => {
    const wish: ReportWish = {
      ...USUAL_WISH,
      sections: [{ id: 'cost', isShown: true, note: 'Cheap.' }, { id: 'steps', isShown: true, note: ' ' }, { id: 'asked', isShown: false }],
    }
    const told = reportOfRun(reportedRun, wish).sections
    expect(told.map(s => [s.id, s.note])).toEqual([['cost', 'Cheap.'], ['steps', undefined]])
  })

  it('are each there once, however they were wished', () => {
    const all = allSections([{ id: 'cost', isShown: true }, { id: 'cost', isShown: false }])
    expect(all[0]).toEqual({ id: 'cost', isShown: true })
    expect(all.map(s => s.id).sort()).toEqual([...SECTION_IDS].sort())
  })

  it('say so when they have nothing to say', () => {
    const { curve: _, target: __, failures: ___, ...rest } = reportedRun
    const empty = reportOfRun({ ...rest, slices: {}, machines: [] }, everything)
    for (const id of ['curve', 'steps', 'failures', 'target', 'cost'])
      expect(wordsOf(section(id, empty).blocks)).toMatch(/^(Nothing|No|What)\b.*\.$/)
  })
})

it('claims nothing of what was given back', () => {
  const { curve: _, target: __, failures: ___, ...rest } = reportedRun
  const left = reportOfRun({ ...rest, slices: {}, isGivenBack: true }, everything)
  for (const id of ['curve', 'baseline', 'steps', 'failures', 'places', 'target'])
    expect(wordsOf(section(id, left).blocks)).toBe('What the run measured was given back: its answer is what is left.')
  expect(tableOf('objectives', left).rows).toHaveLength(2)
})

it('holds users of groups by location to the plan’s own sum', () => {
  const table = tableOf('asked')
  expect(table.columns.map(c => c.name)).toEqual(['group', 'journey', 'REY', 'TAV', 'users'])
  // 60 % of 20 at REY, the rest at TAV.
  expect(table.rows).toMatchObject([[{ text: 'A Lookers' }, { text: 'Look around' }, { by: 12 }, { by: 8 }, { by: 20 }]])
  expect(table.foot).toMatchObject([{}, {}, { by: 12 }, { by: 8 }, { by: 20 }])
})

it('tells objectives by word and mark: one that held at less than was asked for did not simply hold', () => {
  expect(tableOf('objectives').rows.map(r => [r[0]!.text, r[0]!.mark, r[3]!.text])).toEqual([
    ['broken', 'broken', '20 users'],
    ['held at less', 'short', 'at 18 of 20 users'],
  ])
  expect(wordsOf(section('objectives').blocks)).toContain('+00:05 to +00:09 (4 s): p95 of Ask up to 1.50 s at 20 users')
})

it('draws users, the objective with its limit and what was broken, and failures', () => {
  const [block] = section('curve').blocks
  expect(block).toMatchObject({
    kind: 'curve',
    curve: {
      judged: [{ fromS: 4, toS: 9 }],
      staffs: [
        { name: 'Users', lines: [{ name: 'present' }, { name: 'planned', values: [7, 14, 20, 20, 20, 20, 20, 20, 20, 0] }] },
        { name: 'p95 of Ask', limit: { value: 1000 }, broken: [{ fromS: 5, toS: 9, worst: '1.50 s' }] },
        { name: 'Failed', unit: 'perSecond' },
      ],
    },
  })
})

it('begins evidence with what weighs most', () => {
  const list = section('evidence').blocks.find(b => b.kind === 'list')
  expect(list).toMatchObject({ items: [{ text: 'Capacity is assumed.', mark: 'short' }, { text: 'The clock of REY-1 is off.' }] })
})

describe('steps', () => {
  const rows = [
    stepRow('slow', { p95Ms: 900 }),
    stepRow('slower', { p95Ms: 1000 }),
    stepRow('quick and failing', { p95Ms: 5, failed: 50 }),
    stepRow('middling', { p95Ms: 100, failed: 1 }),
  ]
  const named = (most: number) => slowestAndFailing(rows, most).map(r => r.value.split('/')[1])

  it('are the slowest, with those that fail most among them', () => {
    expect(named(1)).toEqual(['quick and failing'])
    expect(named(3)).toEqual(['slower', 'slow', 'quick and failing'])
    expect(named(4)).toEqual(['slower', 'slow', 'middling', 'quick and failing'])
  })

  it('that are left out are counted', () => {
    const one = reportOfRun(reportedRun, { ...everything, steps: 1 })
    expect(tableOf('steps', one).rows.map(r => r[0]!.text)).toEqual(['Ask'])
    expect(wordsOf(section('steps', one).blocks)).toBe('\n1 more step was quicker and failed less.')
  })

  it('name the window they are of', () => {
    expect(windowWords({ fromS: 65, toS: 3700, users: 1200 })).toBe('at 1\u2009200 users, +01:05 to +1:01:40')
    expect(windowWords({ fromS: 0, toS: 10 })).toBe('+00:00 to +00:10')
  })
})
