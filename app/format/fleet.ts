/** Words and order of machine states, ways and ends. */
import type { MachineLine, WayName } from '~~/api/views'
import { MACHINE_STATES } from '~~/core/run/machine-life'

export const WAY_WORDS: Record<WayName, string> = { cloud: 'cloud', private: 'private', selfEnrolled: 'self-enrolled' }

/** How a machine ends when nobody is left to end it. */
export const OWN_END_WORDS = {
  natively: 'end by themselves at the provider',
  'by powering off': 'end themselves by powering off',
  not: 'do not end by themselves',
} as const

/** How many machines are in each state, in the order of their life. */
export function countStates(
  machines: readonly Pick<MachineLine, 'state'>[],
): { state: MachineLine['state'], count: number }[] {
  const counts = new Map<MachineLine['state'], number>()
  for (const m of machines) counts.set(m.state, (counts.get(m.state) ?? 0) + 1)
  return [...counts]
    .map(([state, count]) => ({ state, count }))
    .sort((a, b) => MACHINE_STATES.indexOf(a.state) - MACHINE_STATES.indexOf(b.state))
}

/** Stretches of one state each, from being asked for until gone or now. Moments in ms. */
export function stretchesOf(
  m: Pick<MachineLine, 'askedAt' | 'goneAt' | 'changes'>,
  now: number,
): { state: MachineLine['state'], from: number, to: number }[] {
  const steps: { at: number, state: MachineLine['state'] }[] = [
    { at: m.askedAt, state: 'asked' },
    ...m.changes.filter((c, i, all) => i === 0 || c.to !== all[i - 1]!.to).map(c => ({ at: c.at, state: c.to })),
  ]
  const end = m.goneAt ?? now
  return steps
    .map((s, i) => ({ state: s.state, from: s.at, to: Math.min(steps[i + 1]?.at ?? Math.max(end, s.at), now) }))
    .filter(s => s.to > s.from)
}
