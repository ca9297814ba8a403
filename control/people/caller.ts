/** Who asks: what is known of them, and how the trail names them. */
import type { IncomingMessage } from 'node:http'
import type { Bearer, Role } from '../../api/roles'
import { ControlError } from '../errors'
import { includes } from '../../api/roles'
import type { RunStream } from '../store/run-streams'
import type { SharedLink } from '../store/shared-links'

/** What a request brings of the one who sends it. */
export interface Visit {
  cookie: string | undefined
  authorization: string | undefined
  /** Address it came from. */
  from: string
  browser: string
}

/** A request as the door hands it on. `vornakFrom`: the address it came from, before the proxies that are known. */
export type VisitingRequest = IncomingMessage & { vornakFrom?: string }

export interface Caller {
  bearer: Bearer
  role: Role
  name: string
  /** Of persons and tokens. */
  personId?: number
  sessionId?: number
  /** Of a program that sends figures: the one source it sends to. */
  source?: { targetId: string, name: string }
  /** Of a program that tells of a run while it measures: which of those who do. */
  stream?: RunStream
  /** Of one who comes by a link: what that opens. */
  link?: SharedLink
}

/** Where nobody can sign in yet. */
export const HERE: Caller = { bearer: 'here', role: 'keeper', name: 'this computer' }

/** @throws ControlError unless the caller's role includes the one it takes to do what the words say */
export function must(caller: Caller | undefined, role: Role, toDo: string): void {
  if (!caller || !includes(caller.role, role)) throw notYours(role, toDo)
}

export const notYours = (role: Role, toDo: string) =>
  new ControlError('role', 403, `It takes a person with the role ${role} to ${toDo}.`, 'Ask one of them.')
