/** What was asked and done, and how it went over time. */
import { nameOf, sayLimit } from '../../objectives/sentence'
import { sayValue, timedObjective } from '../../objectives/judge'
import { planInUsers } from '../../plan/expected'
import type { RunSummary } from '../../result/summary'
import type { Claimed, RunDocument } from '../../run/document'
import { usersPerCell } from '../../run/slice'
import { count } from '../../values/said-figures'
import { duration } from '../../values/said-times'
import type { Block, ReportCell, CurveStaff } from '../report'
import type { CurveCourses, ReportedRun } from '../reported-run'
import type { ToldSection } from './told'

/** Groups by location, in users at their peak, and what they were played by. */
export function asked({ document, summary }: ReportedRun): ToldSection {
  const { plan, journeys, fleet, networks = [], clients = [], claimed } = document
  if (claimed) return askedElsewhere(document, claimed, summary)
  const cells = usersPerCell({ plan: planInUsers(plan, journeys) })
  const users = (n: number): ReportCell => ({ text: n === 0 ? '–' : count(n), by: n })
  const sum = (all: readonly number[]) => all.reduce((a, b) => a + b, 0)
  const machinesAt = (code: string) =>
    fleet.filter(o => o.location === code).map(o => `${o.machines} × ${o.type.name}`).join(' + ') || 'no machine'
  return {
    aside: `${count(summary.peakUsers)} users from ${places(plan.locations.length, 'location')}${networks.length > 0 ? `, over ${places(networks.length, 'network')}` : ''}${clients.length > 0 ? `, by ${places(clients.length, 'client')}` : ''}; ${count(summary.whole.started)} requests in ${duration(summary.lengthS * 1000)}`,
    blocks: [
      {
        kind: 'table',
        columns: [
          { name: 'group' },
          { name: 'journey' },
          ...plan.locations.map(l => ({ name: l.code, isFigure: true })),
          { name: 'users', isFigure: true },
        ],
        rows: plan.groups.map((g, row) => [
          { text: `${g.letter} ${g.name}`, isStrong: true },
          { text: journeys.find(j => j.id === g.journeyId)?.name ?? g.journeyId },
          ...cells[row]!.map(users),
          { ...users(sum(cells[row]!)), isStrong: true },
        ]),
        foot: [
          { text: 'all groups' },
          { text: '' },
          ...plan.locations.map((_, l) => users(sum(cells.map(row => row[l]!)))),
          { ...users(sum(cells.map(sum))), isStrong: true },
        ],
      },
      {
        kind: 'text',
        text: `Played by ${plan.locations.map(({ code }) => `${machinesAt(code)} at ${code}`).join('; ')}. Users of a group are counted at its own peak; groups need not have theirs together.`,
      },
    ],
  }
}

/** Nobody asked for it here: what is known is what was told. */
const HOW_TOLD: Record<Claimed['senders'][number]['how'], string> = {
  file: 'from a file',
  stream: 'while it was measured',
  run: 'by generators of Vornak',
}

function askedElsewhere({ plan }: RunDocument, claimed: Claimed, summary: RunSummary): ToldSection {
  const { whole, lengthS, peakUsers, ledger } = summary
  const users = peakUsers > 0 ? `, ${count(peakUsers)} users at most` : ''
  return {
    aside: `${count(whole.started)} requests in ${duration(lengthS * 1000)} from ${places(plan.locations.length, 'location')}${users}`,
    blocks: [
      {
        kind: 'table',
        columns: [{ name: 'told by' }, { name: 'location' }, { name: 'requests', isFigure: true }],
        rows: claimed.senders.map(({ name, location, how }, i) => [
          { text: name, isStrong: true },
          { text: `${plan.locations[location]!.region}, ${HOW_TOLD[how]}` },
          { text: count(ledger.accounts[i]?.merged.started ?? 0), by: ledger.accounts[i]?.merged.started ?? 0 },
        ]),
      },
      {
        kind: 'text',
        text: claimed.senders.some(s => s.how === 'run')
          ? 'Results from elsewhere, told as claimed, joined to a run of Vornak: what was asked of that run stands in its own report.'
          : 'Measured elsewhere, and told as claimed: no load was planned here, and no machine of ours took part.',
      },
    ],
  }
}

const places = (n: number, word: string) => `${n} ${word}${n === 1 ? '' : 's'}`

export function curve(run: ReportedRun): ToldSection {
  const { summary, curve: courses, planned } = run
  if (!courses) return { blocks: [{ kind: 'text', text: 'Nothing was measured that could be drawn.' }] }
  const { fromS, toS, binS } = courses
  const bins = Math.ceil((toS - fromS) / binS)
  const present = Array.from({ length: bins }, (_, b) => {
    const of = courses.users.lines.map(l => l.values[b] ?? null).filter(v => v !== null)
    return of.length === 0 ? null : of.reduce((a, b) => a + b, 0)
  })
  const due = Array.from({ length: bins }, (_, b) => {
    const own = planned.slice(fromS + b * binS, fromS + (b + 1) * binS)
    return own.length === 0 ? null : Math.max(...own)
  })
  const levels = summary.answer.settled ? judgedLevels(run) : []
  return {
    aside: levels.length > 0
      ? `levels of ${levels.map(l => count(l.users)).join(', ')} users; shaded: judged, after settling`
      : 'no level was held long enough to be judged by itself',
    blocks: [
      {
        kind: 'curve',
        curve: {
          fromS,
          toS,
          binS,
          judged: levels,
          staffs: [
            {
              name: 'Users',
              unit: 'users',
              lines: [
                { name: 'present', look: 'ink', values: present },
                ...(run.document.claimed ? [] : [{ name: 'planned', look: 'planned' as const, values: due }]),
              ],
            },
            objectiveStaff(run, courses),
            {
              name: 'Failed',
              unit: 'perSecond',
              lines: [{ name: 'failures', look: 'bars', values: courses.failed.lines[0]?.values ?? [] }],
            },
          ],
        },
      } satisfies Block,
    ],
  }
}

/** Levels that were judged, each once, in the order of time. */
function judgedLevels({ summary }: ReportedRun): { fromS: number, toS: number, users: number }[] {
  const levels = new Map(summary.answer.judgements.map(({ level }) => [level.fromS, level]))
  return [...levels.values()].sort((a, b) => a.fromS - b.fromS)
}

/** Times of what the first objective about one limits, else of all requests. */
function objectiveStaff({ document, summary }: ReportedRun, courses: CurveCourses): CurveStaff {
  const timed = timedObjective(document.plan.objectives)
  return {
    name: timed ? nameOf(timed.objective, document.journeys) : 'p95 of all requests',
    unit: 'ms',
    lines: [{ name: 'right answers', look: 'ink', values: courses.objective.lines[0]?.values ?? [] }],
    ...(timed
      ? {
          limit: { value: timed.objective.atMost, says: sayLimit(timed.objective) },
          broken: (summary.broken ?? [])
            .filter(s => s.objective === timed.index)
            .map(s => ({
              fromS: s.fromS,
              toS: s.toS,
              worst: `${sayValue(timed.objective, s.worst)}${s.judged ? '' : ', not judged'}`,
            })),
        }
      : {}),
  }
}
