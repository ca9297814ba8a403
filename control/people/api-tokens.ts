/** API tokens: what a program of a person comes with. They have a name, a role and an end, and can be taken back. */
import { includes, type Role } from '../../api/roles'
import type { Clock } from '../clock'
import { notFound } from '../errors'
import type { ApiToken, PeopleStore, Person } from '../store/people'
import { notYours } from './caller'
import { newSecret, secretHash } from './secrets'

const DAY_MS = 86_400_000
/** How exactly it is written down when one was used, ms. */
const USED_MS = 60_000
/** What a token begins with: so it is recognised where it should not lie. */
const MARK = 'vornak_'

export class ApiTokens {
  constructor(
    private readonly store: PeopleStore,
    private readonly clock: Clock,
  ) {}

  /** @returns the token, which is shown once @throws ControlError when it were to do more than its person */
  make(person: Person, { name, role, days }: { name: string, role: Role, days: number }): string {
    if (!includes(person.role, role)) throw notYours(role, `make a token that does what a ${role} does`)
    const token = MARK + newSecret()
    const createdAt = this.clock.now()
    this.store.addToken(secretHash(token), {
      personId: person.id,
      name,
      role,
      createdAt,
      endsAt: createdAt + days * DAY_MS,
    })
    return token
  }

  /** @returns what a token stands for, unless it has ended */
  find(token: string): ApiToken | undefined {
    const found = this.store.token(secretHash(token))
    const now = this.clock.now()
    if (!found || found.endsAt <= now) return undefined
    if (now - (found.usedAt ?? 0) > USED_MS) this.store.used(found.id, now)
    return found
  }

  of(personId: number): ApiToken[] {
    return this.store.tokensOf(personId)
  }

  /** @throws ControlError when the person has no such token */
  end(personId: number, id: number): void {
    if (!this.store.endToken(id, personId)) throw notFound(`token ${id} of yours`)
  }
}
