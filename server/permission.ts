/** Whether who asks may: held against the table of the API, the same for every operation. */
import type { OperationId } from '../api/addresses'
import { OPERATIONS, type Operation } from '../api/operations'
import { refusalOf } from '../api/roles'
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
  if (refusal === 'bearer')
    throw operation.by?.includes('source')
      ? new ControlError('role', 403, 'This is for a program that sends a target’s figures.', 'Send the token of its source.')
      : new ControlError('role', 403, 'This is for a person who has signed in.', 'Sign in, and try again.')
  throw notYours(operation.role as Exclude<typeof operation.role, 'anyone'>, 'do this')
}
