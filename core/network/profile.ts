/** A network profile: what is added to the real path between a user and the target. */

export interface NetworkProfile {
  /** Lower-case letters, digits and hyphens; plans name it by this. */
  id: string
  name: string
  /** Added round-trip time, ms: half of it each way. */
  latencyMs: number
  /** Standard deviation of the round-trip time, ms. */
  jitterMs: number
  /** Share of packets lost each way, 0 to below 1. */
  loss: number
  /** Most bits per second towards the user and from it; left out: no limit. */
  downBps?: number
  upBps?: number
  /** Where the values come from. */
  source?: string
}

/** The network of a user to whom nothing is added. */
export const DIRECT = 'direct'

/** Payload of a full segment, bytes: 1,500 of Ethernet less 40 of IP and TCP (RFC 894, RFC 9293). */
export const SEGMENT_BYTES = 1460

/** From here on nothing useful gets through, 0–1: Padhye's model stands on measurements below it. */
const MOST_LOSS = 0.3
const MOST_LATENCY_MS = 10_000
const LEAST_BPS = 1000
const MOST_BPS = 100e9

/** A value of a profile that cannot be, and why. */
export interface ProfileFault {
  field: keyof NetworkProfile
  sentence: string
}

export function faultsOfProfile(profile: NetworkProfile): ProfileFault[] {
  const faults: ProfileFault[] = []
  const fault = (field: keyof NetworkProfile, sentence: string) => faults.push({ field, sentence })
  if (!/^[a-z0-9][a-z0-9-]{0,39}$/.test(profile.id) || profile.id === DIRECT)
    fault(
      'id',
      profile.id === DIRECT
        ? '“direct” is the name for no profile: choose another.'
        : 'The short name takes lower-case letters, digits and hyphens, at most 40.',
    )
  if (profile.name.trim() === '') fault('name', 'Give the profile a name.')
  if (!between(profile.latencyMs, 0, MOST_LATENCY_MS))
    fault('latencyMs', `The added round trip must be from 0 to ${MOST_LATENCY_MS} ms.`)
  if (!between(profile.jitterMs, 0, MOST_LATENCY_MS))
    fault('jitterMs', `The jitter must be from 0 to ${MOST_LATENCY_MS} ms.`)
  else if (profile.jitterMs > Math.max(1, profile.latencyMs))
    fault(
      'jitterMs',
      `A jitter of ${profile.jitterMs} ms around a round trip of ${profile.latencyMs} ms would mostly be cut at zero: take at most the round trip.`,
    )
  if (!(profile.loss >= 0)) fault('loss', 'The loss must be from 0 %.')
  else if (profile.loss >= 1)
    fault('loss', 'With 100 % lost nothing ever arrives: that is no network but a pulled plug.')
  else if (profile.loss > MOST_LOSS)
    fault(
      'loss',
      `Above ${MOST_LOSS * 100} % loss connections stall for minutes and nothing can be measured: take less.`,
    )
  for (const [field, words] of [
    ['downBps', 'Download'],
    ['upBps', 'Upload'],
  ] as const) {
    const bps = profile[field]
    if (bps === undefined) continue
    if (bps === 0)
      fault(field, `${words} bandwidth 0 lets nothing through: leave it empty for no limit, or write a rate.`)
    else if (!between(bps, LEAST_BPS, MOST_BPS)) fault(field, `${words} bandwidth must be from 1 kbit/s to 100 Gbit/s.`)
  }
  return faults
}

function between(n: number, least: number, most: number): boolean {
  return Number.isFinite(n) && n >= least && n <= most
}
