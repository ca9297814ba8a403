/**
 * Holds a request rate by moving users: a proportional-integral controller with its output clamped and its integral stopped at the clamp
 * (anti-windup by conditional integration: Åström and Hägglund, PID Controllers, 1995, §3.5). One step a second.
 */

/** Share of the error made good at once, and per second. Chosen so that the loop stays calm behind two seconds of delay. */
const PROPORTIONAL = 0.25
const INTEGRAL = 0.12
/** Weight of the newest second in the smoothed rate per user. */
const SMOOTHING = 0.2
/** At the ceiling this long and still short by this share: the rate cannot be reached. */
const GIVE_UP_S = 15
const SHORT_BY = 0.05

export interface RateStep {
  /** Users that should be there from now on. */
  users: number
  /** The ceiling is reached and the rate is not. */
  cannotReach: boolean
}

export class RateController {
  private integral = 0
  private perUser: number
  private shortS = 0

  /**
   * @param fewest floor, in users
   * @param most ceiling, in users
   * @param perUser expected requests per second and user, before anything is measured: 1 ÷ mean time between a user's requests
   */
  constructor(private readonly fewest: number, private readonly most: number, perUser: number) {
    this.perUser = Math.max(1e-6, perUser)
  }

  /**
   * @param wanted requests per second that should be sent now
   * @param measured requests per second in the last whole second; undefined: none is known yet
   * @param present users who were there in it
   */
  next(wanted: number, measured: number | undefined, present: number): RateStep {
    if (wanted <= 0) {
      this.integral = 0
      this.shortS = 0
      return { users: 0, cannotReach: false }
    }
    if (measured !== undefined && present > 0 && measured > 0) this.perUser += SMOOTHING * (measured / present - this.perUser)
    // Nothing known, or the first step of all: what the pauses let expect.
    if (measured === undefined || this.integral === 0) this.integral = wanted / this.perUser
    const error = measured === undefined || present === 0 ? 0 : (wanted - measured) / this.perUser
    const asked = this.integral + PROPORTIONAL * error
    const users = Math.round(Math.min(this.most, Math.max(this.fewest, asked)))
    const atCeiling = asked >= this.most
    const windsUp = (atCeiling && error > 0) || (asked <= this.fewest && error < 0)
    this.integral = windsUp ? Math.min(this.most, Math.max(this.fewest, this.integral)) : this.integral + INTEGRAL * error
    this.shortS = atCeiling && measured !== undefined && measured < wanted * (1 - SHORT_BY) ? this.shortS + 1 : 0
    return { users, cannotReach: this.shortS >= GIVE_UP_S }
  }
}
