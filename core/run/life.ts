/**
 * The life of a run, as a table: which event takes it from which state to which, and what must then be done outside.
 */

export type RunState =
  | 'queued'
  | 'gathering'
  | 'rollCall'
  | 'rehearsing'
  | 'armed'
  | 'warming'
  | 'loading'
  | 'draining'
  | 'settled'
  | 'stopped'
  | 'aborted'
  | 'failed'

/** How a run ends once its last user has gone. */
export type RunEnding = 'settled' | 'stopped' | 'aborted'

export type RunEvent =
  | 'turnCame'
  | 'readIn'
  | 'toldOf'
  | 'machinesReady'
  | 'machinesLacking'
  | 'rollCalled'
  | 'rollCalledOnly'
  | 'rollCallFailed'
  | 'rehearsed'
  | 'rehearsalFailed'
  | 'armingFailed'
  | 'startedWarm'
  | 'started'
  | 'warmedUp'
  | 'planOver'
  | 'fleetLost'
  | 'stopAsked'
  | 'abortAsked'
  | 'closedAsPlanned'
  | 'closedAfterStop'
  | 'closedAfterAbort'
  | 'resultFailed'

/** Worth telling, though it changes no state. */
export type RunRemark =
  | 'created'
  | 'mark'
  | 'vornakAway'
  | 'mergeBroken'
  | 'setAside'
  | 'trouble'
  | 'reclaimNotice'
  | 'rateNotReached'
  | 'usersMoved'
  | 'salvage'
  | 'targetAwaited'
  | 'generatorLost'
  | 'generatorAbsent'
  | 'generatorLate'
  | 'generatorJoined'
  | 'generatorSilent'
  | 'generatorHeard'
  | 'generatorStressed'
  | 'objectiveBroken'
  | 'objectiveMended'
  | 'sourceSilent'
  | 'sourceHeard'
  | 'sourceAnew'

/** Something that happened to a run, as it is kept and shown. */
export interface RunChange {
  /** ms since 1970. */
  at: number
  from: RunState
  to: RunState
  event: RunEvent | RunRemark
  /** In words. */
  reason: string
  /** Name of the generator or the objective it is about. */
  about?: string
}

/**
 * What is done at a provider after a change: an entry of the outbox each. What generators are told follows from the
 * state alone, and is told again to a generator that comes back.
 */
export type RunErrand = 'askForMachines' | 'release'

export interface RunMove {
  to: RunState
  errands: RunErrand[]
}

const move = (to: RunState, ...errands: RunErrand[]): RunMove => ({ to, errands })
const endBeforeLoad = { stopAsked: move('stopped', 'release'), abortAsked: move('aborted', 'release') }
const endUnderLoad = {
  stopAsked: move('draining'),
  abortAsked: move('draining'),
  planOver: move('draining'),
  fleetLost: move('draining'),
}

export const RUN_LIFE: Record<RunState, Partial<Record<RunEvent, RunMove>>> = {
  queued: {
    turnCame: move('gathering', 'askForMachines'),
    // What other programs measured needs no machines: it is read at once, or waited for.
    readIn: move('settled'),
    toldOf: move('armed'),
    stopAsked: move('stopped'),
    abortAsked: move('aborted'),
  },
  gathering: { machinesReady: move('rollCall'), machinesLacking: move('failed', 'release'), ...endBeforeLoad },
  rollCall: {
    rollCalled: move('rehearsing'),
    rollCalledOnly: move('armed'),
    rollCallFailed: move('failed', 'release'),
    ...endBeforeLoad,
  },
  rehearsing: { rehearsed: move('armed'), rehearsalFailed: move('failed', 'release'), ...endBeforeLoad },
  armed: {
    startedWarm: move('warming'),
    started: move('loading'),
    armingFailed: move('failed', 'release'),
    ...endBeforeLoad,
  },
  warming: { warmedUp: move('loading'), ...endUnderLoad },
  loading: { ...endUnderLoad },
  draining: {
    closedAsPlanned: move('settled', 'release'),
    closedAfterStop: move('stopped', 'release'),
    closedAfterAbort: move('aborted', 'release'),
    resultFailed: move('failed', 'release'),
    abortAsked: move('draining'),
  },
  settled: {},
  stopped: {},
  aborted: {},
  failed: {},
}

export const ENDED: readonly RunState[] = ['settled', 'stopped', 'aborted', 'failed']

/** Users come, are there or leave. */
export const UNDER_LOAD: readonly RunState[] = ['warming', 'loading', 'draining']

export function afterRunEvent(state: RunState, event: RunEvent): RunMove | undefined {
  return RUN_LIFE[state][event]
}

/** Words an operator reads. */
export const RUN_WORDS: Record<RunState, string> = {
  queued: 'waiting for its turn',
  gathering: 'gathering machines',
  rollCall: 'calling the roll',
  rehearsing: 'rehearsing',
  armed: 'armed',
  warming: 'warming up',
  loading: 'loading',
  draining: 'draining',
  settled: 'settled',
  stopped: 'stopped',
  aborted: 'aborted',
  failed: 'failed',
}
