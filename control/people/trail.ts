/** Who did what, when, from where. It names objects, never what was sent. */
import type { OperationId } from '../../api/addresses'
import { OPERATIONS } from '../../api/operations'
import type { TrailView } from '../../api/views'
import type { Clock } from '../clock'
import type { TrailStore } from '../store/trail'
import type { Caller } from './caller'

/** An operation of an older release may be gone. */
const wordsOf = (act: string): string => (act in OPERATIONS ? OPERATIONS[act as OperationId].about : act)

/** Entries told at once. */
const PAGE = 200
/** Letters of what an act was about. */
const MOST_ABOUT = 300

export class Trail {
  constructor(
    private readonly store: TrailStore,
    private readonly clock: Clock,
  ) {}

  /**
   * @param caller undefined: not known @param about names in the address @param outcome `done`, or the code it was
   * refused with
   */
  write(
    caller: Pick<Caller, 'name' | 'bearer'> | undefined,
    from: string,
    { act, about, outcome }: { act: string, about: string, outcome: string },
  ): void {
    this.store.add({
      at: this.clock.now(),
      who: caller?.name ?? 'somebody unknown',
      bearer: caller?.bearer ?? '',
      address: from,
      act,
      about: about.slice(0, MOST_ABOUT),
      outcome,
    })
  }

  /** The latest first. @param before only what is older than this entry */
  view(before = Number.MAX_SAFE_INTEGER): TrailView {
    const entries = this.store.before(before, PAGE + 1)
    return {
      entries: entries.slice(0, PAGE).map(entry => ({ ...entry, says: wordsOf(entry.act) })),
      more: entries.length > PAGE,
    }
  }
}
