/**
 * Load of lost generators that this one plays in a run. It is told all of it each time, so that nothing is missing when
 * the link was down; each piece is begun once.
 */
import type { TakenPart } from '../core/run/assigned-load'

export class Reassigned {
  private readonly begun = new Set<string>()

  /** What of these parts has not been begun; from now on it has. */
  fresh(parts: readonly TakenPart[]): TakenPart[] {
    return parts
      .map(({ location, generator, users, passes }) => ({
        location,
        generator,
        users: users.filter(u => this.begin(`${location}/${generator}/user ${u}`)),
        passes: passes
          .map(p => ({
            ...p,
            slots: p.slots.filter(s => this.begin(`${location}/${generator}/group ${p.group}/pass ${s} of ${p.of}`)),
          }))
          .filter(p => p.slots.length > 0),
      }))
      .filter(p => p.users.length > 0 || p.passes.length > 0)
  }

  /** @returns false when it had been begun */
  private begin(piece: string): boolean {
    const { size } = this.begun
    return this.begun.add(piece).size > size
  }
}
