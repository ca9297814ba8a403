/**
 * Generators under load that say nothing. After a while their users are unknown, and it is said; they are lost, and
 * their load goes to others, only when the machine is known to have stopped or its own grace is surely over: until then
 * it may drive on, and load given to others too would be there twice.
 */
import type { ActiveRun, PhaseTools } from './active-run'
import { startOf } from './active-run'

/** Silence after which nobody knows any more whether a generator's users are there, ms. */
const UNKNOWN_AFTER_MS = 20_000

/** At every look while the run loads or drains. */
export function noteSilence(run: ActiveRun, { hub, machines, runs, clock }: PhaseTools): void {
  const now = clock.now()
  const at = (ms: number) => `+${Math.max(0, Math.round((ms - startOf(run)) / 1000))} s`
  for (const [g, { machineId, name }] of run.generators.entries()) {
    const part = run.parts.ofThere(g)
    if (!part) continue
    const { is, silentSince: since } = part
    const state = machines.machine(machineId)?.state
    if (state !== 'loading' && state !== 'draining') {
      run.parts.set(g, { is })
      continue
    }
    const heardAt = hub.heardAt(machineId)
    if (now - heardAt > UNKNOWN_AFTER_MS) {
      if (since !== undefined) continue
      run.parts.set(g, { is, silentSince: heardAt })
      runs.remark(
        run.id,
        run.stored.state,
        'generatorSilent',
        `${name} has said nothing since ${at(heardAt)}: whether its users are there is not known. It drives on by itself until ${at(hub.graceOverAt(machineId))} at most; then it is lost, and its load goes to others.`,
        now,
        name,
      )
    }
    else if (since !== undefined) {
      run.parts.set(g, { is })
      runs.remark(
        run.id,
        run.stored.state,
        'generatorHeard',
        `${name} is heard again, after ${Math.round((heardAt - since) / 1000)} s: it hands over what it measured meanwhile.`,
        now,
        name,
      )
    }
  }
}
