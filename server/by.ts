/** Who asks, from what came with the request; and what they go away with: a cookie. */
import { deleteCookie, getCookie, getRequestHeader, setCookie, type H3Event } from 'h3'
import { coordinator } from '../control/meeting-place'
import type { Caller, Visit, VisitingRequest } from '../control/people/caller'

export class By {
  readonly visit: Visit
  caller: Caller | undefined
  /** What it is about, where the address does not say it: a name, never a secret. */
  about: string | undefined

  constructor(private readonly event: H3Event) {
    // The operators’ door notes that on every request.
    const { vornakFrom, socket } = event.node.req as VisitingRequest
    this.visit = {
      cookie: getRequestHeader(event, 'cookie'),
      authorization: getRequestHeader(event, 'authorization'),
      from: vornakFrom ?? socket.remoteAddress ?? '',
      browser: getRequestHeader(event, 'user-agent') ?? '',
    }
    this.caller = coordinator().people.callerOf(this.visit)
  }

  /** They are known from now on. @param secret what their cookie is to carry */
  comesWith(caller: Caller, secret: string): void {
    this.caller = caller
    setCookie(this.event, this.name, secret, {
      ...this.cookie,
      maxAge: coordinator().people.sessions.longestMs / 1000,
    })
  }

  leaves(): void {
    deleteCookie(this.event, this.name, this.cookie)
  }

  /** They are sent to another service. @param state what they are known by when they come back */
  goesWith(state: string): void {
    setCookie(this.event, this.awayName, state, this.cookie)
  }

  /** @returns what they came back with, which counts once */
  cameBackWith(): string | undefined {
    const state = getCookie(this.event, this.awayName)
    deleteCookie(this.event, this.awayName, this.cookie)
    return state
  }

  /** How what was sent is written, and packed. */
  get sent(): { type: string, packed: string | undefined } {
    return {
      type: getRequestHeader(this.event, 'content-type') ?? '',
      packed: getRequestHeader(this.event, 'content-encoding'),
    }
  }

  /** The query as it was written. */
  get query(): URLSearchParams {
    return new URLSearchParams(this.event.path.split('?')[1] ?? '')
  }

  private get name() {
    return coordinator().people.cookie
  }

  /** What a browser that is sent to another service comes back with. */
  private get awayName() {
    return `${this.name}-away`
  }

  /** Not for scripts, not for other sites; over TLS not without it. */
  private get cookie() {
    const { socket, headers } = this.event.node.req
    // What was forwarded gets here only from a proxy the server was told of.
    const isSecure
      = (socket as { encrypted?: boolean }).encrypted === true || headers['x-forwarded-proto'] === 'https'
    return { httpOnly: true, sameSite: 'lax', secure: isSecure, path: '/' } as const
  }
}
