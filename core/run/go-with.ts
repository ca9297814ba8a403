/** Going with fewer machines than were asked for: shares are kept, every level is lowered in proportion. */
import type { FleetOrder, PeakShift } from '../fleet/order'
import { scaledGroup } from '../plan/scale'
import type { RunDocument } from './document'

/**
 * @param have machines there are, per order of the fleet
 * @returns the document as it can be run; undefined when a location has nobody at all, for then shares cannot be kept
 */
export function goWith(document: RunDocument, have: readonly number[]): RunDocument | undefined {
  const wanted = document.fleet.reduce((sum, o) => sum + o.machines, 0)
  const there = document.fleet.map((o, i) => Math.min(o.machines, have[i] ?? 0))
  // Machines that are there all through and those that come for the peak play different users.
  const carried = (of: FleetOrder, machines: readonly number[]) =>
    document.fleet.reduce(
      (sum, o, i) =>
        sum + (o.location === of.location && !o.shift === !of.shift ? machines[i]! * (o.carries ?? o.type.vcpu) : 0),
      0,
    )
  const factor = Math.min(
    1,
    ...document.fleet.map(
      o =>
        carried(o, there) /
        carried(
          o,
          document.fleet.map(f => f.machines),
        ),
    ),
  )
  if (!(factor > 0)) return undefined
  return {
    ...document,
    // Users are rounded down: no generator gets more than it was sized for.
    plan: { ...document.plan, groups: document.plan.groups.map(g => scaledGroup(g, factor, Math.floor)) },
    fleet: document.fleet
      .map((o, i) => ({ ...o, machines: there[i]!, ...(o.shift ? { shift: loweredShift(o.shift, factor) } : {}) }))
      .filter(o => o.machines > 0),
    wentWith: { machines: there.reduce((sum, n) => sum + n, 0), wanted, factor },
  }
}

/** The users above the same part of each group. */
function loweredShift(shift: PeakShift, factor: number): PeakShift {
  return {
    ...shift,
    above: Object.fromEntries(
      Object.entries(shift.above).map(([letter, n]) => [letter, Math.floor(n * factor + 1e-9)]),
    ),
    others: Math.floor(shift.others * factor),
  }
}
