/** Whether what a target's owner has agreed to covers load on it: looked at before a run and while it loads. */
import { withinWindow, type Approval, type Target } from './target'

export interface ApprovalFault {
  code: 'not-approved' | 'approval-over' | 'over-approval' | 'approval-ends' | 'outside-window' | 'host-not-approved'
  sentence: string
  remedy: string
}

/** What load is meant. */
export interface MeantLoad {
  /** At the most. */
  users: number
  /** `host:port` of each it goes to. */
  hosts: readonly string[]
}

/** Whether an approval has ended: a moment is compared as a moment, however it is written. @param atMs ms since 1970 */
function isOver({ until }: Approval, atMs: number): boolean {
  return !(Date.parse(until) >= atMs)
}

/**
 * Everything about load that is not covered.
 *
 * @param target undefined: it was removed @param when the load begins and ends, ms since 1970 @param load left out: one
 * user, somewhere it may go
 */
export function approvalFaults(
  target: Pick<Target, 'name' | 'approval'> | undefined,
  { fromMs, toMs }: { fromMs: number, toMs: number },
  load: MeantLoad = { users: 1, hosts: [] },
): ApprovalFault[] {
  if (!target?.approval)
    return [
      {
        code: 'not-approved',
        sentence: `${target?.name ?? 'The target'} is not approved: its owner has not agreed to any load.`,
        remedy: 'Record the owner’s approval with hosts, most users and until when.',
      },
    ]
  const { name, approval } = target
  const { window, contact, until, mostUsers, hosts } = approval
  const found: ApprovalFault[] = []
  const tell = (code: ApprovalFault['code'], sentence: string, remedy: string) => found.push({ code, sentence, remedy })
  if (isOver(approval, fromMs))
    tell('approval-over', `The approval of ${name} ended at ${until}.`, `Ask ${contact} to extend it.`)
  if (load.users > mostUsers)
    tell(
      'over-approval',
      `${load.users} users at peak; the owner of ${name} agreed to at most ${mostUsers}.`,
      `Lower the load, or ask ${contact}.`,
    )
  if (!isOver(approval, fromMs) && isOver(approval, toMs))
    tell(
      'approval-ends',
      `The approval of ${name} ends at ${until}, before the load would.`,
      `Ask ${contact} to extend it, or shorten the load.`,
    )
  if (window && !(withinWindow(window, fromMs) && withinWindow(window, toMs)))
    tell(
      'outside-window',
      `The owner of ${name} agreed to load from ${window.from} to ${window.to} (${window.zone}) only.`,
      `Start within these hours, early enough to end in them, or ask ${contact}.`,
    )
  for (const host of load.hosts.filter(h => !hosts.includes(h)))
    tell(
      'host-not-approved',
      `${host} is not among the approved hosts of ${name}.`,
      'Have the owner approve the host, or take the step out.',
    )
  return found
}
