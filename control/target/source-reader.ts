/** What reads a source, and what a reading of it is. */
import type { CounterState, Reading } from '../../core/target/readings'
import type { SourceClock } from '../../core/target/source-clock'
import type { SshSession } from '../hosts/ssh/session'
import type { Inbox } from './inbox'
import type { PageFetcher } from './page'

export interface SourceReading extends Reading {
  /** When it was read, ms since 1970: the middle between request and answer. */
  readAt: number
  /** How old the newest value was when it came, ms; undefined: nothing new. */
  ageMs: number | undefined
  clock: SourceClock | undefined
}

export interface SourceReader {
  readonly counters: CounterState
  /** @throws SourceTrouble */
  read: () => Promise<SourceReading>
  /** Lets go what it holds. */
  close?: () => void
}

/** Signs in to private hosts. */
export interface CommandHosts {
  /** @param ref `site/host` @throws HostProblem, ControlError */
  open: (ref: string) => Promise<SshSession>
}

/** Where a figure comes from, whatever kind of source it is. */
export interface Surroundings {
  /** Id of the target. */
  targetId: string
  pages: Pick<PageFetcher, 'fetch'>
  commands: CommandHosts
  inbox: Inbox
  now: () => number
}

/** How old the newest value was when it came, ms. */
export function ageOf({ points }: Pick<Reading, 'points'>, gotAt: number): number | undefined {
  if (points.length === 0) return undefined
  return Math.max(0, gotAt - points.reduce((most, p) => Math.max(most, p.atMs), Number.NEGATIVE_INFINITY))
}
