/** Who was there in each second, as far as a file says: as its rows tell, or from first to last row of each user. */
import type { Presence } from '../../core/elsewhere/results'
import type { ClaimedSample } from '../../core/elsewhere/sample'

/** Users that are told apart; of more, nobody knows. */
const MOST_USERS = 500_000

export class PresenceOf {
  /** By place: most users told of in a second, and each user's first and last moment, ms. */
  private readonly told = new Map<string, Map<number, number>>()
  private readonly named = new Map<string, Map<string, [first: number, last: number]>>()
  private users = 0
  private tooMany = false

  note({ users, user, beganMs, durationMs = 0 }: ClaimedSample, place: string): void {
    if (users >= 0) {
      const seconds = this.told.get(place) ?? new Map<number, number>()
      if (seconds.size === 0) this.told.set(place, seconds)
      const second = Math.floor(beganMs / 1000)
      seconds.set(second, Math.max(seconds.get(second) ?? 0, users))
    }
    if (user === '' || this.tooMany) return
    let here = this.named.get(place)
    if (!here) this.named.set(place, (here = new Map()))
    const stay = here.get(user)
    if (stay) {
      if (beganMs < stay[0]) stay[0] = beganMs
      if (beganMs + durationMs > stay[1]) stay[1] = beganMs + durationMs
    }
    else if (++this.users > MOST_USERS) {
      this.tooMany = true
      this.named.clear()
    }
    else here.set(user, [beganMs, beganMs + durationMs])
  }

  get by(): Presence {
    return this.told.size > 0 ? 'told' : this.named.size > 0 ? 'named' : 'nobody'
  }

  /** Most there were at once, all places together. */
  peak(): number {
    const sums = new Map<number, number>()
    for (const place of this.places())
      for (const [second, n] of this.at(place)) sums.set(second, (sums.get(second) ?? 0) + n)
    let most = 0
    for (const n of sums.values()) most = Math.max(most, n)
    return most
  }

  /** Users of a place by second of the file's clock. Where nothing is told for a while, as many as before. */
  at(place: string): Map<number, number> {
    const told = this.told.get(place)
    if (told) return filled(told)
    const stays = this.named.get(place)
    const changes = new Map<number, number>()
    for (const [first, last] of stays?.values() ?? []) {
      const [from, to] = [Math.floor(first / 1000), Math.floor(last / 1000) + 1]
      changes.set(from, (changes.get(from) ?? 0) + 1)
      changes.set(to, (changes.get(to) ?? 0) - 1)
    }
    const there = new Map<number, number>()
    let n = 0
    for (const [second, change] of [...changes].sort((a, b) => a[0] - b[0])) there.set(second, (n += change))
    return filled(there)
  }

  private places(): string[] {
    return this.told.size > 0 ? [...this.told.keys()] : [...this.named.keys()]
  }
}

function filled(at: ReadonlyMap<number, number>): Map<number, number> {
  const all = new Map<number, number>()
  let before: [second: number, n: number] | undefined
  for (const [second, n] of [...at].sort((a, b) => a[0] - b[0])) {
    if (before) for (let s = before[0] + 1; s < second; s++) all.set(s, before[1])
    all.set(second, n)
    before = [second, n]
  }
  return all
}
