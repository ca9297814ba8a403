/** Sessions: what a browser comes back with after its person has signed in. Listed, and ended by their person. */
import type { Clock } from '../clock'
import { notFound } from '../errors'
import type { Person, PeopleStore, Session } from '../store/people'
import type { Visit } from './caller'
import { newSecret, secretHash } from './secrets'

/** Nobody came back with it for so long, ms. */
const IDLE_MS = 12 * 3_600_000
/** However often, ms. */
const LONGEST_MS = 7 * 86_400_000
/** How exactly it is written down when somebody came, ms. */
const SEEN_MS = 60_000
/** Letters of what a browser calls itself. */
const MOST_BROWSER = 200

export class Sessions {
  /** However often somebody comes, ms. */
  readonly longestMs = LONGEST_MS

  /** @param onEnd told of each that ends */
  constructor(
    private readonly store: PeopleStore,
    private readonly clock: Clock,
    private readonly onEnd: (sessionId: number) => void,
  ) {}

  /** @returns what the cookie is to carry */
  begin(person: Person, { from, browser }: Pick<Visit, 'from' | 'browser'>): { secret: string, id: number } {
    const secret = newSecret()
    const now = this.clock.now()
    this.store.forgetSessions(now - IDLE_MS, now - LONGEST_MS)
    const id = this.store.addSession(secretHash(secret), {
      personId: person.id,
      createdAt: now,
      seenAt: now,
      address: from,
      browser: browser.slice(0, MOST_BROWSER),
    })
    return { secret, id }
  }

  /** @returns the session a cookie stands for, unless it is over */
  find(secret: string): Session | undefined {
    const session = this.store.session(secretHash(secret))
    const now = this.clock.now()
    if (!session || isOver(session, now)) return undefined
    if (now - session.seenAt > SEEN_MS) this.store.seen(session.id, now)
    return session
  }

  of(personId: number): Session[] {
    return this.store.sessionsOf(personId).filter(s => !isOver(s, this.clock.now()))
  }

  /** @throws ControlError when the person has no such session */
  end(personId: number, id: number): void {
    if (!this.store.endSession(id, personId)) throw notFound(`session ${id} of yours`)
    this.onEnd(id)
  }

  /** @param except one that goes on */
  endAll(personId: number, except?: number): void {
    for (const { id } of this.store.sessionsOf(personId)) if (id !== except) this.end(personId, id)
  }
}

const isOver = ({ createdAt, seenAt }: Session, now: number) => now - seenAt > IDLE_MS || now - createdAt > LONGEST_MS
