/**
 * Holds a request rate by a number of users. Feed-forward: a user sends one request per mean time between its requests,
 * pauses and answers together, so a rate needs as many users as that time has seconds (the interactive response time
 * law, X = N ÷ (R + Z): Denning and Buzen 1978). The correction is that time itself, as measured: users asked for over
 * requests sent, of the last whole seconds. So what answers take, users who are missing and starts that come late all
 * correct themselves, and nothing can wind up.
 *
 * Every generator reckons its own users from this, from the profile and the last word on that time: it goes on when
 * nobody steers.
 */

/**
 * Requests that tell the time between them within 10 % (1 ÷ √n of a Poisson count), and the least and most seconds they
 * are taken from.
 */
const ENOUGH_REQUESTS = 100
const LEAST_S = 5
const MOST_S = 60
/** What was expected beforehand weighs as this many requests. */
const EXPECTED_WEIGHS = 10
/** At the ceiling this long and still short by this share: the rate cannot be reached. */
const GIVE_UP_S = 15
const SHORT_BY = 0.05
/** Conjugate of the golden ratio: its multiples fill the interval from 0 to 1 most evenly. */
const GOLDEN = 0.618033988749895

/** Bounds on the users who hold a rate. */
export interface UserBounds {
  fewestUsers: number
  mostUsers: number
}

/** Users a rate asks for, not rounded. @param betweenS mean time between two requests of one user, s */
export function usersAsked(rate: number, betweenS: number, { fewestUsers, mostUsers }: UserBounds): number {
  return rate <= 0 ? 0 : Math.min(mostUsers, Math.max(fewestUsers, rate * betweenS))
}

/**
 * The same in whole users. A part of one is there for that part of the time, in stretches long enough to send: half a
 * user is one in every other. All generators reckon alike.
 *
 * @param second run time, s
 */
export function wholeUsers(rate: number, betweenS: number, bounds: UserBounds, second: number): number {
  const asked = usersAsked(rate, betweenS, bounds)
  const stretch = Math.floor(second / Math.max(1, 2 * betweenS))
  return Math.min(bounds.mostUsers, Math.floor(asked + ((stretch * GOLDEN + 0.5) % 1)))
}

/** What is known of the time between two requests of one user. */
export class RateEstimate {
  private readonly seconds: { asked: number, sent: number }[] = []
  private shortS = 0

  /** @param expectedS mean time between two requests of one user, before anything is measured, s */
  constructor(
    private readonly expectedS: number,
    private readonly bounds: UserBounds,
  ) {}

  /**
   * Notes a whole second, in order.
   *
   * @param wanted requests wished in it @param asked users asked for, over all generators @param sent requests sent
   */
  note(wanted: number, asked: number, sent: number): void {
    if (asked > 0) this.seconds.push({ asked, sent })
    if (this.seconds.length > MOST_S) this.seconds.shift()
    this.shortS = asked >= this.bounds.mostUsers && sent < wanted * (1 - SHORT_BY) ? this.shortS + 1 : 0
  }

  /** Enough seconds are known to say something. */
  get isMeasured(): boolean {
    return this.seconds.length >= LEAST_S
  }

  /** Mean time between two requests of one user who was asked for, s. */
  get betweenS(): number {
    let asked = this.expectedS * EXPECTED_WEIGHS
    let sent = EXPECTED_WEIGHS
    let counted = 0
    for (let i = this.seconds.length - 1; i >= 0; i--) {
      const s = this.seconds[i]!
      asked += s.asked
      sent += s.sent
      if (++counted >= LEAST_S && sent >= ENOUGH_REQUESTS + EXPECTED_WEIGHS) break
    }
    return Math.max(1e-6, asked / Math.max(1e-6, sent))
  }

  /** The ceiling has been reached for some time, and the rate has not. */
  get cannotReach(): boolean {
    return this.shortS >= GIVE_UP_S
  }
}
