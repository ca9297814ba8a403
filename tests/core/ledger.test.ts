import fc from 'fast-check'
import { AccountBook, ledgerOf, NO_CLAIMS, type Claims, type FrameHead } from '../../core/merge/ledger'

const claims = (over: Partial<Claims>): Claims => ({ ...NO_CLAIMS, ...over })

/** Frames of a generator that starts `perSecond` exchanges each second, each answered in the second after. */
function frames(perSecond: number[]): { head: FrameHead, inFrame: Claims }[] {
  let started = 0
  let right = 0
  return perSecond.map((n, i) => {
    const answered = i === perSecond.length - 1 ? started + n - right : started - right
    started += n
    right += answered
    return {
      head: {
        incarnation: 7,
        worker: 0,
        sequence: i + 1,
        second: i,
        last: i === perSecond.length - 1,
        claims: claims({ started, right }),
        users: 10,
      },
      inFrame: claims({ started: n, right: answered }),
    }
  })
}

describe('ledger', () => {
  it('balances whatever the order and however often frames come', () => {
    fc.assert(
      fc.property(
        fc.array(fc.nat(50), { minLength: 1, maxLength: 12 }),
        fc.array(fc.nat(100), { maxLength: 30 }),
        (counts, shuffle) => {
          const all = frames(counts)
          const book = new AccountBook('REY-1')
          for (const k of shuffle) book.take(all[k % all.length]!.head, all[k % all.length]!.inFrame)
          for (const f of all) book.take(f.head, f.inFrame)
          const account = book.close()
          expect(account.contradictions).toEqual([])
          expect(account.claimed).toEqual(account.merged)
          expect(account.merged.started).toBe(counts.reduce((a, b) => a + b, 0))
          expect(account).toMatchObject({
            inFlight: 0,
            missing: 0,
            frames: { received: counts.length, absent: 0, repeated: shuffle.length },
          })
          expect(book.finished).toBe(true)
        },
      ),
    )
  })

  it('knows exactly what a frame that never came held', () => {
    const book = new AccountBook('REY-1')
    for (const [i, f] of frames([5, 8, 3, 4]).entries()) if (i !== 1) book.take(f.head, f.inFrame)
    expect(book.close()).toMatchObject({ missing: 8, frames: { received: 3, absent: 1 }, contradictions: [] })
    expect(book.finished).toBe(false)
  })

  it('declares at most users × fastest rate × seconds for a generator that went without a last word', () => {
    const book = new AccountBook('TAV-2')
    for (const f of frames([5, 20, 10, 0]).slice(0, 3)) book.take(f.head, f.inFrame)
    // Own arithmetic: 10 users, at most 20 starts ÷ 10 users in a second, 4 s unheard.
    expect(book.close(6).open).toEqual({ afterSecond: 2, atMostUnknown: 10 * 2 * 4 })
  })

  it('names contradictions: more ended than started, counts going down, merged beyond claimed', () => {
    const more = new AccountBook('a')
    more.take(
      {
        incarnation: 1,
        worker: 0,
        sequence: 1,
        second: 0,
        last: false,
        claims: claims({ started: 2, right: 3 }),
        users: 1,
      },
      claims({ started: 2, right: 3 }),
    )
    expect(more.close().contradictions[0]).toContain('more exchanges ended (3) than started (2)')
    const down = new AccountBook('b')
    down.take(
      { incarnation: 1, worker: 0, sequence: 1, second: 0, last: false, claims: claims({ started: 5 }), users: 1 },
      claims({ started: 5 }),
    )
    down.take(
      { incarnation: 1, worker: 0, sequence: 2, second: 1, last: false, claims: claims({ started: 4 }), users: 1 },
      claims({ started: 1 }),
    )
    expect(down.close().contradictions.join()).toMatch(/went down/)
    expect(ledgerOf([down.close()]).balanced).toBe(false)
  })

  it('counts for the target only what can have been sent', () => {
    const book = new AccountBook('c')
    book.take(
      {
        incarnation: 1,
        worker: 0,
        sequence: 1,
        second: 0,
        last: true,
        claims: claims({ started: 9, right: 5, failed: 4, neverSent: 3 }),
        users: 1,
      },
      claims({ started: 9, right: 5, failed: 4, neverSent: 3 }),
    )
    expect(ledgerOf([book.close()])).toMatchObject({ sent: 6, missing: 0, balanced: true })
  })

  it('covers a second only when every worker has passed it', () => {
    const book = new AccountBook('d')
    expect(book.coveredSecond).toBe(-1)
    book.take(
      { incarnation: 1, worker: 0, sequence: 1, second: 4, last: false, claims: NO_CLAIMS, users: 1 },
      NO_CLAIMS,
    )
    book.take(
      { incarnation: 1, worker: 1, sequence: 1, second: 2, last: false, claims: NO_CLAIMS, users: 1 },
      NO_CLAIMS,
    )
    expect(book.coveredSecond).toBe(2)
  })
})
