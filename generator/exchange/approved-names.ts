/** Looks names up and keeps to the addresses that are approved, before anything is sent to any of them. */
import { lookup, type LookupAddress } from 'node:dns'
import type { LookupFunction } from 'node:net'
import { approvedOf, type ApprovedRanges } from '../../core/journey/approved-address'

/** Where it may not go. */
export class NotApproved extends Error {
  override name = 'NotApproved'
  readonly code = 'VORNAK_NOT_APPROVED'
}

/** The system's own look-up. */
export type Lookup = (
  hostname: string,
  options: { all: true },
  done: (error: NodeJS.ErrnoException | null, addresses: LookupAddress[]) => void,
) => void

/**
 * For `net.connect`: of what a name stands for, what may be connected to. An error when nothing is left.
 *
 * @param host `host:port` as approved
 */
export function approvedLookup(
  host: string,
  allowed: ApprovedRanges,
  resolve: Lookup = lookup as never,
): LookupFunction {
  return (hostname, options, done) => {
    resolve(hostname, { ...options, all: true }, (error, addresses) => {
      if (error) return done(error, '')
      const { good, fault } = approvedOf(host, addresses, allowed)
      const [first] = good
      if (!first) return done(new NotApproved(fault), '')
      if (options.all) done(null, good)
      else done(null, first.address, first.family)
    })
  }
}
