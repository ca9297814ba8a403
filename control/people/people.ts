/**
 * Who may come in. As long as nobody can sign in, anyone who is on this computer may do everything; from the first
 * keeper on, anyone who is not known gets nothing.
 */
import { parse as parseCookies } from 'cookie'
import type { MeView, PersonLine } from '../../api/views'
import { lesserOf, type Role } from '../../api/roles'
import type { Clock } from '../clock'
import { ControlError, notFound } from '../errors'
import type { PeopleStore, Person } from '../store/people'
import { ApiTokens } from './api-tokens'
import { isSourceToken, SourceTokens } from './source-tokens'
import { Attempts } from './attempts'
import { HERE, type Caller, type Visit } from './caller'
import type { OtherService } from './elsewhere'
import { hashed, isPassword, LEAST_LETTERS } from './passwords'
import { Sessions } from './sessions'
import { isStreamToken, streamCallerOf } from './stream-tokens'
import type { RunStreamStore } from '../store/run-streams'
import { isLinkSecret, type SharedLinks } from './shared-links'
import { present } from '../../core/values/present'

export class People {
  readonly sessions: Sessions
  readonly tokens: ApiTokens
  readonly sourceTokens: SourceTokens
  /** Told whom to let go of what they hold open. */
  onLeave: (isGone: (caller: Caller) => boolean) => void = () => {
    /* nobody holds anything open yet */
  }

  private readonly attempts = new Attempts()

  /**
   * @param elsewhere another service that vouches for people @param cookie its name: browsers tell ports of a computer
   * not apart, so each installation has its own @param links by which somebody without an account sees one thing
   * @param streams of programs that tell of runs
   */
  constructor(
    private readonly store: PeopleStore,
    private readonly clock: Clock,
    readonly elsewhere?: OtherService,
    readonly cookie = 'vornak',
    readonly links?: SharedLinks,
    private readonly streams?: Pick<RunStreamStore, 'byHash'>,
  ) {
    this.sessions = new Sessions(store, clock, id => this.onLeave(caller => caller.sessionId === id))
    this.tokens = new ApiTokens(store, clock)
    this.sourceTokens = new SourceTokens(store, clock)
  }

  /** Whether nobody can sign in yet. */
  get isOpen(): boolean {
    return this.elsewhere === undefined && this.store.keepers() === 0
  }

  /** @returns who asks; undefined: not known */
  callerOf({ cookie, authorization }: Pick<Visit, 'cookie' | 'authorization'>): Caller | undefined {
    const [, bearer] = /^Bearer (\S{1,200})$/i.exec(authorization ?? '') ?? []
    // They open their one thing, also where everything else is open.
    if (bearer !== undefined && isSourceToken(bearer)) return this.sourceTokens.callerOf(bearer)
    if (bearer !== undefined && isLinkSecret(bearer)) return this.links?.callerOf(bearer)
    if (bearer !== undefined && isStreamToken(bearer)) return this.streams && streamCallerOf(this.streams, bearer)
    if (this.isOpen) return HERE
    if (bearer !== undefined) return this.callerOfToken(bearer)
    const secret = cookie === undefined ? undefined : parseCookies(cookie)[this.cookie]
    const session = secret === undefined ? undefined : this.sessions.find(secret)
    const person = session && this.letIn(session.personId)
    return person && { bearer: 'person', role: person.role, name: person.name, personId: person.id, sessionId: session.id }
  }

  me(caller: Caller | undefined): MeView {
    const person = caller?.bearer === 'person' ? { name: caller.name, role: caller.role } : undefined
    return {
      open: this.isOpen,
      ...(person ? { person } : {}),
      ...(this.elsewhere ? { elsewhere: this.elsewhere.name } : {}),
    }
  }

  /** @returns the cookie's content and who it is @throws ControlError */
  async signIn(name: string, password: string, visit: Visit): Promise<{ secret: string, caller: Caller }> {
    await this.attempts.count(name, visit.from)
    const person = this.store.named(name)
    const isHere = person !== undefined && person.leftAt === undefined
    if (!(await isPassword(isHere ? person.password : undefined, password)) || !isHere)
      throw new ControlError('password', 401, 'Name and password do not belong together.', 'Correct them and try again.')
    await this.attempts.right(name, visit.from)
    return this.begin(person, visit)
  }

  /** Somebody comes back from the other service. @returns where they wanted to go @throws ControlError */
  async comeBack(
    query: URLSearchParams,
    state: string | undefined,
    visit: Visit,
  ): Promise<{ secret: string, caller: Caller, to: string }> {
    const { elsewhere, name, role, to } = await this.theOther().finish(query, state)
    return { ...this.begin(this.vouchedFor(elsewhere, name, role), visit), to }
  }

  /** @throws ControlError when there is none */
  theOther(): OtherService {
    if (!this.elsewhere) throw notFound('other service to sign in with')
    return this.elsewhere
  }

  begin(person: Person, visit: Visit): { secret: string, caller: Caller } {
    const { secret, id } = this.sessions.begin(person, visit)
    return {
      secret,
      caller: { bearer: 'person', role: person.role, name: person.name, personId: person.id, sessionId: id },
    }
  }

  /** @throws ControlError unless a person asks */
  personOf(caller: Caller | undefined): Person & { sessionId: number } {
    const { sessionId, personId } = caller ?? {}
    const person = sessionId === undefined || personId === undefined ? undefined : this.letIn(personId)
    if (!person || sessionId === undefined)
      throw new ControlError('role', 403, 'This is for a person who has signed in.', 'Sign in, and try again.')
    return { ...person, sessionId }
  }

  list(): PersonLine[] {
    return this.store.all().map(({ id, name, role, password, elsewhere, createdAt, leftAt }) => ({
      id,
      name,
      role,
      by: elsewhere === undefined ? 'password' : password === undefined ? 'elsewhere' : 'both',
      createdAt,
      ...(leftAt === undefined ? {} : { leftAt }),
      seenAt: this.sessions.of(id)[0]?.seenAt,
    }))
  }

  /** The first can only be a keeper: nobody else could let others in. @throws ControlError */
  async add({ name, role, password }: { name: string, role: Role, password: string }): Promise<Person> {
    const { isOpen } = this
    if (isOpen && role !== 'keeper')
      throw new ControlError('person', 400, 'The first person must be a keeper.', 'Add the others afterwards.')
    const hash = await hashed(this.fit(name, password))
    // Looked at when nobody can come between any more.
    if (isOpen && !this.isOpen)
      throw new ControlError('person', 409, 'Somebody else has just made the first person.', 'Sign in, or ask them.')
    if (this.store.named(name))
      throw new ControlError('person', 409, `${name} is there already.`, 'Choose another name.').at('name')
    this.onLeave(caller => caller.bearer === 'here')
    return present(this.store.find(this.store.add({ name, role, password: hash, elsewhere: undefined, createdAt: this.clock.now() })), 'who was just added')
  }

  /** @param elsewhere issuer and subject @returns who was vouched for, made when they come for the first time */
  private vouchedFor(elsewhere: string, name: string, role: Role): Person {
    const known = this.store.vouchedFor(elsewhere)
    if (known) {
      if (known.leftAt !== undefined)
        throw new ControlError('person', 403, `${known.name} is not let in any more.`, 'Ask a keeper.')
      // What the other service says of the role holds from now on.
      this.store.save({ ...known, role })
      return { ...known, role }
    }
    const free = this.store.named(name) ? `${name} (${elsewhere})`.slice(0, 80) : name
    return present(this.store.find(this.store.add({ name: free, role, password: undefined, elsewhere, createdAt: this.clock.now() })), 'who was just added')
  }

  /** Another role, or let in no more, or again. What a person came with ends with it. @throws ControlError */
  change(id: number, { role, isIn }: { role: Role, isIn: boolean }): void {
    const person = this.store.find(id)
    if (!person) throw notFound(`person ${id}`)
    const staysKeeper = role === 'keeper' && isIn
    if (person.role === 'keeper' && person.leftAt === undefined && !staysKeeper && this.store.keepers() === 1)
      throw new ControlError(
        'last-keeper',
        409,
        `${person.name} is the last keeper: nobody could let anybody in.`,
        'Make somebody else a keeper first.',
      )
    this.store.save({ ...person, role, leftAt: isIn ? undefined : (person.leftAt ?? this.clock.now()) })
    if (!isIn) this.leave(id)
    // What is held open was held against the role of before.
    else if (role !== person.role) this.onLeave(caller => caller.personId === id)
  }

  /** A keeper gives somebody a new password: anyone who had the old one is out. @throws ControlError */
  async resetPassword(id: number, password: string): Promise<void> {
    const person = this.store.find(id)
    if (!person) throw notFound(`person ${id}`)
    this.store.setPassword(id, await hashed(this.fit(person.name, password)))
    this.leave(id)
  }

  /** One's own. Other browsers are signed out. @throws ControlError */
  async setPassword(caller: Caller | undefined, now: string, next: string, from: string): Promise<void> {
    const { sessionId, ...person } = this.personOf(caller)
    await this.attempts.count(person.name, from)
    if (!(await isPassword(person.password, now)))
      throw new ControlError('password', 401, 'The present password is another.', 'Correct it and try again.').at('now')
    await this.attempts.right(person.name, from)
    this.store.setPassword(person.id, await hashed(this.fit(person.name, next, 'next')))
    this.sessions.endAll(person.id, sessionId)
  }

  private callerOfToken(secret: string): Caller | undefined {
    const token = this.tokens.find(secret)
    const person = token && this.letIn(token.personId)
    return (
      person && {
        bearer: 'token',
        role: lesserOf(token.role, person.role),
        name: `${person.name}, by ${token.name}`,
        personId: person.id,
      }
    )
  }

  private letIn(id: number): Person | undefined {
    const person = this.store.find(id)
    return person?.leftAt === undefined ? person : undefined
  }

  private leave(id: number): void {
    this.sessions.endAll(id)
    for (const token of this.tokens.of(id)) this.tokens.end(id, token.id)
    this.onLeave(caller => caller.personId === id)
  }

  /** @param place of the password in the request @throws ControlError for what is guessed first */
  private fit(name: string, password: string, place = 'password'): string {
    const isGuessed = new Set(password).size < 5 || password.toLowerCase().includes(name.toLowerCase())
    if (password.length < LEAST_LETTERS || isGuessed)
      throw new ControlError(
        'password',
        400,
        isGuessed
          ? 'The password is guessed too easily.'
          : `The password has ${password.length} letters; ${LEAST_LETTERS} are the least.`,
        'Take several words that only you put together; spaces count.',
      ).at(place)
    return password
  }
}
