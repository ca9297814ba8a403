/**
 * Gives the users of a lost generator to those that are left at its location, up to what each carries; the rest has no
 * place.
 */

/** A generator that is left: users it carries at most, and has already. */
export interface TakerRoom {
  carries: number
  held: number
}

/**
 * Each next user goes to the generator whose share of its capacity is least used, as long as it has room; ties by
 * order.
 *
 * @returns per user, the index of its generator; −1: nobody can carry it
 */
export function shareOut(users: number, rooms: readonly TakerRoom[]): Int32Array {
  const held = rooms.map(r => r.held)
  const to = new Int32Array(users).fill(-1)
  for (let u = 0; u < users; u++) {
    let best = -1
    for (let i = 0; i < rooms.length; i++) {
      if (held[i]! + 1 > rooms[i]!.carries) continue
      if (best < 0 || (held[i]! + 1) / rooms[i]!.carries < (held[best]! + 1) / rooms[best]!.carries - 1e-12) best = i
    }
    // What is full stays full.
    if (best < 0) break
    held[best]!++
    to[u] = best
  }
  return to
}
