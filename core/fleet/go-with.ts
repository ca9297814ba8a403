/** Going with fewer machines than were asked for: shares are kept, every level is lowered in proportion. */
import type { Group, RunDocument } from '../plan/document'

/**
 * @param have machines there are, by location code
 * @returns the document as it can be run; undefined when a location has nobody at all, for then shares cannot be kept
 */
export function goWith(document: RunDocument, have: Readonly<Record<string, number>>): RunDocument | undefined {
  const wanted = document.fleet.reduce((sum, o) => sum + o.machines, 0)
  const factor = Math.min(1, ...document.fleet.map(o => (have[o.location] ?? 0) / o.machines))
  if (!(factor > 0)) return undefined
  return {
    ...document,
    plan: { ...document.plan, groups: document.plan.groups.map(g => lowered(g, factor)) },
    fleet: document.fleet.map(o => ({ ...o, machines: Math.min(o.machines, have[o.location]!) })),
    wentWith: { machines: document.fleet.reduce((sum, o) => sum + Math.min(o.machines, have[o.location]!), 0), wanted, factor },
  }
}

/** Users stay whole and are rounded down: no generator gets more than it was sized for. */
function lowered(group: Group, factor: number): Group {
  const byUsers = (group.drive?.kind ?? 'users') === 'users'
  const level = (n: number) => byUsers ? Math.floor(n * factor + 1e-9) : n * factor
  const drive = group.drive?.kind === 'requests' ? { ...group.drive, fewestUsers: Math.floor(group.drive.fewestUsers * factor), mostUsers: Math.max(1, Math.floor(group.drive.mostUsers * factor)) } : group.drive
  return { ...group, profile: { ...group.profile, segments: group.profile.segments.map(s => ({ ...s, to: level(s.to) })) }, ...(drive ? { drive } : {}) }
}
