/** What was judged, and how far it can be trusted. */
import { accountOfAll, type AccountState } from '../../result/three-way'
import { sayShortfall, sayValue } from '../../objectives/judge'
import { nameOf, sayLimit } from '../../objectives/sentence'
import { count } from '../../values/said-figures'
import { duration, runTime } from '../../values/said-times'
import type { Block, Mark } from '../report'
import type { ReportedRun } from '../reported-run'
import { nothing, type ToldSection } from './told'

export function objectives({ document, summary }: ReportedRun): ToldSection {
  const { answer, broken = [] } = summary
  if (answer.judgements.length === 0) return nothing('There was nothing to judge: the plan has no objective, or the run no load.')
  const stretches = broken.filter(s => s.judged)
  return {
    aside: answer.settled ? 'judged in the settled part of each level' : 'judged over the whole load',
    blocks: [
      {
        kind: 'table',
        columns: [
          { name: '' },
          { name: 'objective' },
          { name: 'measured', isFigure: true },
          { name: 'at', isFigure: true },
          { name: 'when' },
        ],
        rows: answer.judgements.map(({ objective, level, measured, held, short = [] }) => {
          const mark: Mark = !held ? 'broken' : short.length > 0 ? 'short' : 'held'
          return [
            { text: WORDS[mark], mark },
            { text: `${nameOf(objective, document.journeys)} ${sayLimit(objective)}`, isStrong: true },
            measured === undefined
              ? { text: 'not measured' }
              : { text: sayValue(objective, measured), by: measured, isStrong: true },
            short.length > 0
              ? { text: short.map(sayShortfall).join(' and '), by: level.users }
              : { text: `${count(level.users)} users`, by: level.users },
            { text: `${runTime(level.fromS)} to ${runTime(level.toS)}`, by: level.fromS },
          ]
        }),
      },
      ...(stretches.length > 0
        ? [
            { kind: 'text', text: 'Stretches in which one was broken while it was judged:' } as const,
            {
              kind: 'list',
              items: stretches.slice(0, MOST_STRETCHES).map((s) => {
                const objective = document.plan.objectives[s.objective]!
                return {
                  text: `${runTime(s.fromS)} to ${runTime(s.toS)} (${duration((s.toS - s.fromS) * 1000)}): ${nameOf(objective, document.journeys)} up to ${sayValue(objective, s.worst)}${s.users === undefined ? '' : ` at ${count(s.users)} users`}`,
                }
              }),
            } satisfies Block,
            ...left(stretches.length - MOST_STRETCHES),
          ]
        : []),
    ],
  }
}

const WORDS: Record<Mark, string> = { held: 'held', short: 'held at less', broken: 'broken' }
const MOST_STRETCHES = 12

const left = (n: number): Block[] => (n > 0 ? [{ kind: 'text', text: `And ${n} more.` }] : [])

const SOUNDNESS = {
  sound: 'Sound: nothing speaks against it as evidence.',
  qualified: 'Qualified: good for the answer above, with these reservations.',
  unsound: 'Unsound: it is no evidence for the answer above, and should be made again.',
} as const
/** The heaviest first. */
const WEIGHTS = ['voids', 'qualifies', 'note']
const SOUND_MARKS = { sound: 'held', qualified: 'short', unsound: 'broken' } as const

export function evidence({ summary, threeWay = [] }: ReportedRun): ToldSection {
  const account = threeWay.length > 0 ? accountOfAll(threeWay) : undefined
  const { soundness, ledger } = summary
  const findings = [...summary.findings].sort((a, b) => WEIGHTS.indexOf(a.weight) - WEIGHTS.indexOf(b.weight))
  const merged = `Every one of ${count(ledger.merged.started)} requests that were begun is accounted for: ${count(ledger.merged.right)} answered right, ${count(ledger.merged.failed)} failed, ${count(ledger.merged.cut)} cut off at the end.`
  const open = ledger.atMostUnknown > 0 ? ` At most ${count(ledger.atMostUnknown)} more may have begun unknown to anybody.` : ''
  return {
    aside: findings.length === 0 ? 'no finding' : `${findings.length} ${findings.length === 1 ? 'finding' : 'findings'}`,
    blocks: [
      { kind: 'text', text: SOUNDNESS[soundness], mark: SOUND_MARKS[soundness] },
      ...(findings.length > 0
        ? [{
          kind: 'list',
          items: findings.map(f => ({
            text: f.sentence,
            ...(f.weight === 'note' ? {} : { mark: f.weight === 'voids' ? 'broken' as const : 'short' as const }),
            then: f.remedy,
          })),
        } satisfies Block]
        : []),
      {
        kind: 'text',
        text: ledger.balanced
          ? `${merged}${open}`
          : `The ledger does not balance: generators say they began ${count(ledger.claimed.started)} requests, ${count(ledger.merged.started)} were merged, ${count(ledger.missing)} are missing.`,
        ...(ledger.balanced ? {} : { mark: 'broken' as const }),
      },
      ...(account
        ? [{ kind: 'text', text: account.sentence, ...accountMark(account.state) } satisfies Block]
        : []),
    ],
  }
}

/** What is not told yet has none. */
function accountMark(state: AccountState): { mark?: Mark } {
  return state === 'coming' ? {} : { mark: state === 'open' ? 'short' : 'held' }
}
