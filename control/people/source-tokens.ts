/** What a program comes with that sends a target's own figures: it opens that one source, and nothing else. */
import type { Clock } from '../clock'
import { notFound } from '../errors'
import type { PeopleStore, SourceToken } from '../store/people'
import type { Caller } from './caller'
import { newSecret, secretHash } from './secrets'

/** How exactly it is written down when one was used, ms. */
const USED_MS = 10_000
/** What such a token begins with. */
const MARK = 'vornak-source_'

export class SourceTokens {
  constructor(
    private readonly store: PeopleStore,
    private readonly clock: Pick<Clock, 'now'>,
  ) {}

  /** @returns the token, which is shown once; the one before it opens nothing any more */
  make(targetId: string, source: string): string {
    const token = MARK + newSecret()
    this.store.putSourceToken(secretHash(token), { targetId, source, createdAt: this.clock.now() })
    return token
  }

  /** @returns undefined: it is none, or was taken back */
  callerOf(bearer: string): Caller | undefined {
    const found = this.store.sourceToken(secretHash(bearer))
    if (!found) return undefined
    const { targetId, source, usedAt } = found
    const now = this.clock.now()
    if (now - (usedAt ?? 0) > USED_MS) this.store.sourceTokenUsed(targetId, source, now)
    return { bearer: 'source', role: 'viewer', name: `source ${source} of ${targetId}`, source: { targetId, name: source } }
  }

  of(targetId: string): SourceToken[] {
    return this.store.sourceTokensOf(targetId)
  }

  /** @throws ControlError when there is none */
  end(targetId: string, source: string): void {
    if (!this.store.endSourceToken(targetId, source)) throw notFound(`token of source ${source}`)
  }

  endAll(targetId: string): void {
    this.store.endSourceTokens(targetId)
  }
}

/** Told by its beginning, so that it is never taken for a person's. */
export const isSourceToken = (bearer: string): boolean => bearer.startsWith(MARK)
