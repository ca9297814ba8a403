/** Links by which somebody without an account sees one thing, to its end, and nothing else. */
import type { SharedThing } from '../../core/report/shared'
import { MOST_COMPARED } from '../../core/compare/rows'
import type { Clock } from '../clock'
import { ControlError, notFound } from '../errors'
import type { Caller } from './caller'
import { newSecret, secretHash } from './secrets'
import type { SharedLink, SharedLinkStore } from '../store/shared-links'

const DAY_MS = 86_400_000
/** What such a link carries begins with. */
const MARK = 'vornak-link_'

/** Told by its beginning, so that it is never taken for a person's. */
export const isLinkSecret = (bearer: string): boolean => bearer.startsWith(MARK)

export class SharedLinks {
  constructor(
    private readonly store: SharedLinkStore,
    private readonly clock: Pick<Clock, 'now'>,
  ) {}

  /** @returns what the link carries, which is shown once @throws ControlError */
  make(opens: SharedThing, days: number, madeBy: string): { id: number, secret: string } {
    const { kind, runs } = opens
    const fits = kind === 'comparison' ? runs.length >= 2 && runs.length <= MOST_COMPARED : runs.length === 1
    if (!fits)
      throw new ControlError(
        'form',
        400,
        kind === 'comparison' ? `${runs.length} runs are chosen.` : 'A link opens one run.',
        kind === 'comparison' ? `Choose two to ${MOST_COMPARED} of them.` : 'Make one for each.',
      )
    const secret = MARK + newSecret()
    const createdAt = Math.round(this.clock.now())
    const id = this.store.add(secretHash(secret), { opens, madeBy, createdAt, endsAt: createdAt + days * DAY_MS })
    return { id, secret }
  }

  /** All that there ever were, the newest first. */
  all(): SharedLink[] {
    return this.store.all()
  }

  /** @returns undefined: it is none, is over, or was taken back */
  callerOf(bearer: string): Caller | undefined {
    const link = this.store.byHash(secretHash(bearer))
    if (!link || link.endedAt !== undefined || link.endsAt <= this.clock.now()) return undefined
    return { bearer: 'link', role: 'viewer', name: `link ${link.id}`, link }
  }

  opened({ id }: SharedLink): void {
    this.store.opened(id, Math.round(this.clock.now()))
  }

  /** @throws ControlError when there is none that is open */
  end(id: number): void {
    if (!this.store.end(id, Math.round(this.clock.now()))) throw notFound(`open link ${id}`)
  }
}
