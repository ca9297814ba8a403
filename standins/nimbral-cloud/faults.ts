/** What is to go wrong next, told from outside (`PUT /faults`): a cloud that always behaves teaches nobody anything. */

/** How many of the next are to go wrong in each way. */
export interface Faults {
  /** Machines that take this much longer to boot, s: all, until it is 0 again. */
  slowBootS: number
  /** Machines that boot for ever. */
  endlessBoots: number
  /** Machines that come up broken. */
  brokenBoots: number
  /** Machines that run, and whose generator is never started. */
  neverEnrol: number
  /** Machines whose clock is this far off, s: all, until it is 0 again. */
  clockOffS: number
  /** Calls answered with 500. */
  errors: number
  /** Calls answered with a page of HTML. */
  html: number
  /** Machines that are made, though the answer never comes. */
  unheard: number
  /** Releases that are accepted and not carried out. */
  deafReleases: number
  /** Releases that leave the disk behind. */
  forgottenDisks: number
}

export const NO_FAULTS: Faults = {
  slowBootS: 0,
  endlessBoots: 0,
  brokenBoots: 0,
  neverEnrol: 0,
  clockOffS: 0,
  errors: 0,
  html: 0,
  unheard: 0,
  deafReleases: 0,
  forgottenDisks: 0,
}

type Counted = Exclude<keyof Faults, 'slowBootS' | 'clockOffS'>

export class FaultBook {
  faults: Faults = { ...NO_FAULTS }

  /** @throws Error naming what is not a fault */
  set(wanted: Record<string, unknown>): Faults {
    for (const [name, value] of Object.entries(wanted)) {
      if (!(name in NO_FAULTS) || typeof value !== 'number' || !Number.isFinite(value))
        throw new Error(`“${name}” is no fault: there are ${Object.keys(NO_FAULTS).join(', ')}, each a number.`)
    }
    return (this.faults = { ...this.faults, ...wanted })
  }

  /** Whether this one is to go wrong; it is then used up. */
  strikes(fault: Counted): boolean {
    if (this.faults[fault] <= 0) return false
    this.faults[fault]--
    return true
  }
}
