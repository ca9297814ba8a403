/** What a program comes with that tells of a run while it measures: it opens that, and nothing else. */
import { secretHash, newSecret } from './secrets'
import type { Caller } from './caller'
import type { RunStreamStore } from '../store/run-streams'

const MARK = 'vornak-stream_'

/** Told by its beginning, so that it is never taken for a person's. */
export const isStreamToken = (bearer: string): boolean => bearer.startsWith(MARK)

/** @returns the token, which is shown once, and what is kept of it */
export function newStreamToken(): { token: string, hash: string } {
  const token = MARK + newSecret()
  return { token, hash: secretHash(token) }
}

/** @returns undefined: it is none */
export function streamCallerOf(store: Pick<RunStreamStore, 'byHash'>, bearer: string): Caller | undefined {
  const stream = store.byHash(secretHash(bearer))
  return stream && { bearer: 'stream', role: 'viewer', name: `${stream.name} of run ${stream.runId}`, stream }
}
