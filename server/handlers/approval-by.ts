import { must, type Caller } from '../../control/people/caller'

/** An approval that comes with something else is a keeper's to record, too. @throws ControlError */
export function approvalBy(caller: Caller | undefined, before: unknown, after: unknown): void {
  if (JSON.stringify(before) !== JSON.stringify(after)) must(caller, 'keeper', 'record what an owner has agreed to')
}
