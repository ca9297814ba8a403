/** What stands around the figures: the target's own account, cost, what happened, the set-up, how it was measured. */
import { setUpOf } from '../../compare/set-up'
import { count, euro, figureText } from '../../values/said-figures'
import { duration, runTime, utcMoment } from '../../values/said-times'
import type { Block, ReportCell } from '../report'
import type { ReportedRun, TargetLine } from '../reported-run'
import { windowWords } from './figures'
import { nothing, type ToldSection } from './told'
import type { StepAccount } from '../../result/three-way'

export function target({ target: lines = [], threeWay = [], window, document }: ReportedRun): ToldSection {
  if (lines.length === 0 && threeWay.length === 0)
    return nothing(`What ${document.target.name} said of itself was not read: the plan did not ask for it, or it has no sources.`)
  return {
    aside: windowWords(window),
    blocks: [
      ...(lines.length > 0
        ? [{
          kind: 'table',
          columns: [
            { name: 'what' },
            ...['before', 'mean', 'largest', 'furthest'].map(name => ({ name, isFigure: true })),
            { name: 'as before again' },
          ],
          rows: lines.map(lineCells),
        } satisfies Block]
        : []),
      ...(threeWay.length > 0
        ? [
            { kind: 'text', text: 'Begun by us, answered to us, and counted by the target:' } as const,
            {
              kind: 'table',
              columns: [
                { name: 'step' },
                ...['begun', 'answered', 'counted there'].map(name => ({ name, isFigure: true })),
                { name: 'account' },
              ],
              rows: threeWay.map(a => [
                { text: a.step, isStrong: true },
                ...[a.started, a.answered, a.counted].map((n): ReportCell => ({ text: count(n), by: n })),
                accountCell(a),
              ]),
            } satisfies Block,
          ]
        : []),
    ],
  }
}

function accountCell({ state, openBy }: StepAccount): ReportCell {
  if (state === 'open') return { text: `open by ${count(Math.abs(openBy))}`, mark: 'broken' }
  return state === 'coming' ? { text: 'still read' } : { text: state, mark: 'held' }
}

function lineCells({ name, split, unit, mean, largest, recovery }: TargetLine): ReportCell[] {
  const figure = (value: number | undefined): ReportCell => ({ text: figureText(value, unit), by: value ?? 0 })
  const again = recovery
    ? recovery.atS === undefined ? 'not as far as was read' : `from ${runTime(recovery.atS)} on`
    : '–'
  return [
    { text: split ? `${name}, ${split}` : name, isStrong: true },
    figure(recovery?.value),
    figure(mean),
    figure(largest),
    recovery
      ? { text: `${figureText(recovery.furthest.value, unit)} at ${runTime(recovery.furthest.atS)}`, by: recovery.furthest.value }
      : { text: '–', by: 0 },
    { text: again, by: recovery?.atS ?? -1 },
  ]
}

export function cost({ machines, cost: spent, document }: ReportedRun): ToldSection {
  if (machines.length === 0) return nothing('No machine was taken for it.')
  const kinds = new Map<string, { type: string, location: string, n: number, ms: number, cost: number }>()
  for (const m of machines) {
    const key = `${m.location} ${m.type}`
    const kind = kinds.get(key) ?? { type: m.type, location: m.location, n: 0, ms: 0, cost: 0 }
    kinds.set(key, { ...kind, n: kind.n + 1, ms: kind.ms + m.ms, cost: kind.cost + m.cost })
  }
  return {
    aside: document.forecast === undefined ? '' : `forecast ${euro(document.forecast)}`,
    blocks: [
      {
        kind: 'table',
        columns: [
          { name: 'machines' },
          { name: 'at' },
          { name: 'machine time', isFigure: true },
          { name: 'cost', isFigure: true },
        ],
        rows: [...kinds.values()].map(k => [
          { text: `${k.n} × ${k.type}`, isStrong: true },
          { text: k.location },
          { text: duration(k.ms), by: k.ms },
          { text: k.cost === 0 ? 'own' : euro(k.cost), by: k.cost },
        ]),
        foot: [
          { text: 'this run' },
          { text: '' },
          { text: duration(machines.reduce((sum, m) => sum + m.ms, 0)) },
          { text: euro(spent), isStrong: true },
        ],
      },
    ],
  }
}

/** Lines that are told, at most: the rest is in the application. */
const MOST_CHANGES = 60

export function happened({ changes, startAt }: ReportedRun): ToldSection {
  const told = changes.slice(0, MOST_CHANGES)
  return {
    aside: `by the coordinator’s clock, load from ${utcMoment(startAt)} on`,
    blocks: [
      {
        kind: 'table',
        columns: [{ name: 'when', isFigure: true }, { name: 'what' }],
        rows: told.map(c => [
          { text: runTime((c.at - startAt) / 1000), by: c.at },
          { text: c.about && !c.reason.startsWith(c.about) ? `${c.about}: ${c.reason}` : c.reason },
        ]),
      },
      ...(changes.length > told.length
        ? [{ kind: 'text', text: `And ${changes.length - told.length} more, in the application.` } as const]
        : []),
    ],
  }
}

export function setUp({ document, build }: ReportedRun): ToldSection {
  return {
    aside: document.claimed ? 'as far as it was told' : `plan version ${document.planVersion}`,
    blocks: [
      {
        kind: 'table',
        columns: [{ name: 'what' }, { name: 'as it was for this run' }],
        rows: setUpOf({ document, build }).map(f => [{ text: f.what, isStrong: true }, { text: f.says }]),
      },
    ],
  }
}

/** How Vornak counts and times; or that others did, and what was made of it. */
export function method({ document }: Pick<ReportedRun, 'document'>): ToldSection {
  if (document.claimed)
    return {
      blocks: [
        {
          kind: 'list',
          items: [
            { text: 'Other programs measured: counts, times and moments are as they told them.' },
            { text: 'Percentiles are of all single requests that were told, never averages; bins are 0.1 % wide or narrower.' },
            { text: 'Means of several requests stand apart; requests without a time are counted, and in no percentile.' },
            { text: 'What each told is held against what was merged; what they never told is not known here.' },
          ],
        },
      ],
    }
  return {
    blocks: [
      {
        kind: 'list',
        items: [
          { text: 'Percentiles are of the merged distribution of all machines, never averages of theirs; bins are 0.1 % wide or narrower.' },
          { text: 'Times are of right answers, from the first byte sent to the last byte received, as the generator saw them.' },
          { text: 'An answer that did not come in time counts as a failure; where an objective counts failures as times, as its limit at least.' },
          { text: 'A level is judged once it has settled; while the load rises or falls nothing is judged.' },
          { text: 'What each machine says it began is held against what was merged; what is missing is said.' },
        ],
      },
    ],
  }
}
