/** Sources that are commands on private hosts: who may have them run. */
import type { Source } from '../../core/target/source'
import { must, type Caller } from '../people/caller'

/** A new one, or another line or host, takes a keeper. @throws ControlError */
export function commandsBy(
  caller: Caller | undefined,
  before: readonly Source[] = [],
  after: readonly Source[] = [],
): void {
  const known = new Set(before.map(lineOf))
  const isNew = after.some(s => s.kind === 'command' && !known.has(lineOf(s)))
  if (isNew) must(caller, 'keeper', 'have a command run on a host')
}

const lineOf = ({ kind, address, command }: Source): string => JSON.stringify([kind, address, command])
