/** Why a run must not go on: its target's owner does not agree any more, or the disk has no room. Once a second. */
import { hostsUsed } from '../../core/checks/target-problems'
import { approvalFaults, type MeantLoad } from '../../core/journey/approval'
import { planInUsers } from '../../core/plan/expected'
import { peakOfPlan } from '../../core/plan/peak'
import type { RunDocument } from '../../core/run/document'
import type { RunState } from '../../core/run/life'
import type { Disk } from '../store/disk'
import type { ActiveRun, PhaseTools } from './active-run'

/** States in which a run sends, or is on its way to. */
const MAY_SEND: readonly RunState[] = ['queued', 'gathering', 'rollCall', 'rehearsing', 'armed', 'warming', 'loading']
/** Between two looks, ms. */
const LOOK_MS = 1000

/** @returns why it must not go on, and what to do; undefined: it may */
export function noLongerApproved(run: ActiveRun, { clock, library }: Pick<PhaseTools, 'clock' | 'library'>) {
  const { document, stored } = run
  const now = clock.now()
  // Vornak's own sink agrees to anything; what other programs send is no matter of ours.
  if (document.calibration?.sink || document.claimed) return undefined
  if (!MAY_SEND.includes(stored.state) || now - run.approvedAt < LOOK_MS) return undefined
  run.approvedAt = now
  const [fault] = approvalFaults(library.target(document.target.id), { fromMs: now, toMs: now }, meantBy(document))
  return fault && `${fault.sentence} ${fault.remedy}`
}

/** @returns why it must drain now, so that what it found is kept; undefined: there is room for more */
export function noRoom({ stored }: ActiveRun, disk: Pick<Disk, 'trouble'>): string | undefined {
  return MAY_SEND.includes(stored.state) ? disk.trouble : undefined
}

/** Whether two runs send to the same system, whatever it is called in each. */
export function meetsAtTarget(one: RunDocument, other: RunDocument): boolean {
  const { hosts } = meantBy(other)
  return one.target.id === other.target.id || meantBy(one).hosts.some(h => hosts.includes(h))
}

const meant = new WeakMap<RunDocument, MeantLoad>()

/** How many users a run brings at the most, and where to. */
function meantBy(document: RunDocument): MeantLoad {
  const known = meant.get(document)
  if (known) return known
  const { plan, journeys, target } = document
  const used = journeys.filter(j => plan.groups.some(g => g.journeyId === j.id))
  const load = { users: peakOfPlan(planInUsers(plan, journeys)), hosts: hostsUsed(used, target) }
  meant.set(document, load)
  return load
}
