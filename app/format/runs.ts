/** States of a run in words. */
import type { RunStateName } from '~~/api/views'

export const RUN_STATE_WORDS: Record<RunStateName, string> = {
  queued: 'waiting for its turn', gathering: 'gathering machines', rollCall: 'calling the roll', rehearsing: 'rehearsing', armed: 'armed', warming: 'warming up', loading: 'loading', draining: 'draining',
  settled: 'settled', stopped: 'stopped', aborted: 'aborted', failed: 'failed',
}
