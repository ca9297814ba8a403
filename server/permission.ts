/** Whether the one who asks may: held against the table of the API, the same for every operation. */
import type { OperationId } from '../api/addresses'
import { OPERATIONS, type Operation } from '../api/operations'
import { refusalOf, type Bearer } from '../api/roles'
import { ControlError } from '../control/errors'
import { notYours, type Caller } from '../control/people/caller'

/** @throws ControlError when they may not */
export function permit(id: OperationId, caller: Caller | undefined): void {
  const operation: Operation = OPERATIONS[id]
  const refusal = refusalOf(operation, caller)
  if (refusal === undefined) return
  if (refusal === 'unknown')
    throw new ControlError(
      'sign-in',
      401,
      'Nobody here knows who asks.',
      'Sign in, or send a token: “Authorization: Bearer …”.',
    )
  if (refusal === 'bearer') throw notFor(operation.by ?? [])
  // What is for anyone was let through above.
  throw notYours(operation.role as Exclude<typeof operation.role, 'anyone'>, 'do this')
}

function notFor(bearers: readonly Bearer[]): ControlError {
  if (bearers.includes('source'))
    return new ControlError('role', 403, 'This is for a program that sends a target’s figures.', 'Send the token of its source.')
  if (bearers.includes('link'))
    return new ControlError('role', 403, 'This is for those who come by a link.', 'Send what the link carries behind its #.')
  if (bearers.includes('stream'))
    return new ControlError('role', 403, 'This is for a program that tells of a run.', 'Send the token of its stream.')
  return new ControlError('role', 403, 'This is for a person who has signed in.', 'Sign in, and try again.')
}
