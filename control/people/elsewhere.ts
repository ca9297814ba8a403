/**
 * Signing in with another service: OpenID Connect Core 1.0, authorization code flow with PKCE (RFC 7636), by a
 * certified library. Who comes for the first time is made a person; what they may is what the service says of them.
 */
import {
  allowInsecureRequests,
  authorizationCodeGrant,
  buildAuthorizationUrl,
  calculatePKCECodeChallenge,
  discovery,
  fetchUserInfo,
  randomNonce,
  randomPKCECodeVerifier,
  randomState,
  type Configuration,
} from 'openid-client'
import { includes, type Role } from '../../api/roles'
import type { Clock } from '../clock'
import { ControlError } from '../errors'
import { messageOf } from '../../core/values/thrown'
import { present } from '../../core/values/present'

export interface ElsewhereSettings {
  /** Where the service is: its issuer identifier. */
  issuer: string
  client: string
  secret: string
  /** What the button says. */
  name: string
  scope: string
  /** Claim that says what somebody may, and which value stands for which role; `*`: anyone. */
  claim: string
  roles: Readonly<Record<string, Role>>
}

/** Who came back, as the service says. */
export interface Vouched {
  /** Issuer and subject: what never changes of them. */
  elsewhere: string
  name: string
  role: Role
  /** Where they wanted to go. */
  to: string
}

/** So long somebody may take there, ms. */
const MOST_AWAY_MS = 10 * 60_000
/** This many may be away at once. */
const MOST_AWAY = 1000

interface Away {
  verifier: string
  nonce: string
  to: string
  since: number
}

/** What others need of it. */
export type OtherService = Pick<SignInElsewhere, 'name' | 'begin' | 'finish'>

export class SignInElsewhere {
  private configuration: Promise<Configuration> | undefined
  private readonly away = new Map<string, Away>()

  /** @param here where Vornak's pages are, and so where people come back to */
  constructor(
    private readonly settings: ElsewhereSettings,
    private readonly here: string,
    private readonly clock: Clock,
  ) {}

  get name(): string {
    return this.settings.name
  }

  /** @returns where to go, and what the browser is known by when it comes back @throws ControlError */
  async begin(to: string): Promise<{ url: string, state: string }> {
    const configuration = await this.configured()
    const [verifier, nonce, state] = [randomPKCECodeVerifier(), randomNonce(), randomState()]
    this.forgetLate()
    this.away.set(state, { verifier, nonce, to, since: this.clock.now() })
    const url = buildAuthorizationUrl(configuration, {
      redirect_uri: this.back,
      scope: this.settings.scope,
      code_challenge: await calculatePKCECodeChallenge(verifier),
      code_challenge_method: 'S256',
      nonce,
      state,
    })
    return { url: url.href, state }
  }

  /**
   * @param query of the address they came back with @param state what their browser was known by @throws ControlError
   */
  async finish(query: URLSearchParams, state: string | undefined): Promise<Vouched> {
    this.forgetLate()
    const away = state === undefined ? undefined : this.away.get(state)
    if (!away || state === undefined) throw refused('It was begun in another browser, or too long ago.')
    // Once: one who comes back with the same again is somebody else.
    this.away.delete(state)
    const configuration = await this.configured()
    const url = new URL(this.back)
    url.search = query.toString()
    const claims = await this.claimsOf(configuration, url, away, state)
    const { sub, name, preferred_username: called, email } = claims
    return {
      elsewhere: `${configuration.serverMetadata().issuer} ${sub}`,
      name: ([name, called, email].find(isName) ?? sub).trim().slice(0, 80),
      role: this.roleOf(claims),
      to: away.to,
    }
  }

  private async claimsOf(
    configuration: Configuration,
    url: URL,
    { verifier, nonce }: Away,
    state: string,
  ): Promise<Claims> {
    try {
      const tokens = await authorizationCodeGrant(configuration, url, {
        pkceCodeVerifier: verifier,
        expectedNonce: nonce,
        expectedState: state,
        idTokenExpected: true,
      })
      const { sub, ...claims } = present(tokens.claims(), 'the claims of an answer that was checked to have an ID token')
      const more = configuration.serverMetadata().userinfo_endpoint
        ? await fetchUserInfo(configuration, tokens.access_token, sub)
        : {}
      return { ...claims, ...more, sub }
    }
    catch (error) {
      throw refused(messageOf(error))
    }
  }

  private get back(): string {
    return `${this.here}${BACK}`
  }

  /** The most that any value of the claim stands for. @throws ControlError when none does */
  private roleOf(claims: Record<string, unknown>): Role {
    const { claim, roles } = this.settings
    const values = [claims[claim]].flat().filter(v => typeof v === 'string')
    const found = [...values, '*'].flatMap(v => roles[v] ?? [])
    if (found.length === 0)
      throw new ControlError('role', 403, `${this.name} vouches for you, but for no role here.`, 'Ask a keeper.')
    return found.reduce((most, role) => (includes(role, most) ? role : most))
  }

  /** Asked once, and again while it did not answer. */
  private async configured(): Promise<Configuration> {
    const { issuer, client, secret } = this.settings
    this.configuration ??= discovery(new URL(issuer), client, secret, undefined, {
      // On this computer nobody reads along.
      ...(isHere(issuer) ? { execute: [allowInsecureRequests] } : {}),
    })
    try {
      return await this.configuration
    }
    catch (error) {
      this.configuration = undefined
      throw new ControlError(
        'elsewhere',
        502,
        `${this.name} does not answer: ${messageOf(error)}.`,
        'Try again, or sign in by password.',
      )
    }
  }

  private forgetLate(): void {
    const since = this.clock.now() - MOST_AWAY_MS
    for (const [state, away] of this.away)
      if (away.since < since || this.away.size >= MOST_AWAY) this.away.delete(state)
  }
}

type Claims = Record<string, unknown> & { sub: string }

const isName = (claim: unknown): claim is string => typeof claim === 'string' && claim.trim() !== ''

/** Where they come back to. */
const BACK = '/api/me/elsewhere/back'

const isHere = (address: string) => ['127.0.0.1', 'localhost', '[::1]'].includes(new URL(address).hostname)

const refused = (why: string) =>
  new ControlError('elsewhere', 401, `Signing in there did not work: ${why}`, 'Try again, or sign in by password.')
