/** Rehearsal: one user goes through each journey from each location, before anything is multiplied. */
import { suppliesForTry } from '../library/supplies'
import { notRehearsed } from '../../core/journey/rehearsable'
import { crewOf, tellOnce, type ActiveRun, type PhaseTools, type Verdict } from './active-run'
import { present } from '../../core/values/present'

/** All steps of all journeys must be through by then, ms. */
const REHEARSAL_TIMEOUT_MS = 120_000

export function rehearsal(run: ActiveRun, tools: PhaseTools): Verdict | undefined {
  const first = new Map<string, ReturnType<typeof crewOf>[number]>()
  for (const member of crewOf(run, tools))
    if (!first.has(member.machine.location)) first.set(member.machine.location, member)
  const problems: string[] = []
  let waiting = 0
  for (const { machine, connection } of first.values()) {
    const steps = run.rehearsals.get(machine.id)
    if (!steps) {
      waiting++
      if (connection)
        tellOnce(run, connection, 'rehearse', () =>
          connection.say({
            kind: 'rehearse',
            document: run.document,
            runId: String(run.id),
            supplies: suppliesForTry(
              tools.library,
              run.document,
              1 + run.document.plan.locations.findIndex(l => l.code === machine.location),
            ),
          }),
        )
      if (machine.state !== 'ready') return { event: 'rehearsalFailed', reason: `${machine.name} is ${machine.state}` }
      continue
    }
    for (const s of steps) if (!s.ok) problems.push(`${s.step} from ${machine.location}: ${s.problem}`)
  }
  if (problems.length > 0) return { event: 'rehearsalFailed', reason: problems.join('; ') }
  if (waiting > 0)
    return tools.clock.now() - run.since > REHEARSAL_TIMEOUT_MS
      ? { event: 'rehearsalFailed', reason: `not over after ${REHEARSAL_TIMEOUT_MS / 1000} s` }
      : undefined
  const steps = [...run.rehearsals.values()].flat()
  const untried = notRehearsed(run.document)
  // What never ran was never right: the verdict weighs it.
  if (untried.length === 0) tools.runs.setRehearsed(run.id)
  tools.runs.setUnloaded(
    run.id,
    [...first].flatMap(([location, { machine }]) =>
      present(run.rehearsals.get(machine.id), 'what the first of each location has rehearsed')
        .map(({ journeyId, step, durationMs: ms }) => ({ location, journeyId, step, ms })),
    ),
  )
  const slowest = [...steps].sort((a, b) => b.durationMs - a.durationMs)[0]
  const said =
    steps.length === 0
      ? 'nothing was rehearsed'
      : `every step tried was right from ${[...first.keys()].join(', ')}${slowest ? `; slowest: ${slowest.step}, ${slowest.durationMs.toFixed(0)} ms` : ''}`
  return {
    event: 'rehearsed',
    reason:
      untried.length === 0
        ? said.replace('every step tried', 'every step')
        : `${said}; not rehearsed: ${untried.join(', ')}, for a command runs under load only`,
  }
}
