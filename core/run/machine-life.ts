/**
 * The life of a generator's machine, as a table: which event takes it from which state to which. Nothing else changes a
 * state.
 */
import { keysIn } from '../values/written-out'

export type MachineState =
  | 'asked'
  | 'allocated'
  | 'booting'
  | 'installing'
  | 'enrolled'
  | 'ready'
  | 'loading'
  | 'draining'
  | 'releasing'
  | 'released'
  | 'refused'
  | 'failed'
  | 'unfit'
  | 'lost'
  | 'reclaimed'
  | 'releaseUnconfirmed'

export type MachineEvent =
  | 'allocated'
  | 'refused'
  | 'booting'
  | 'running'
  | 'enrolled'
  | 'rollCallPassed'
  | 'rollCallFailed'
  | 'loadStarted'
  | 'drainStarted'
  | 'loadEnded'
  | 'releaseAsked'
  | 'goneConfirmed'
  | 'tookTooLong'
  | 'broke'
  | 'stoppedAnswering'
  | 'takenBack'
  | 'releaseUnanswered'
  | 'taken'
  | 'letGo'

const LEAVING = {
  releaseAsked: 'releasing',
  stoppedAnswering: 'lost',
  takenBack: 'reclaimed',
  tookTooLong: 'failed',
} as const
const ON_ITS_WAY = { enrolled: 'enrolled', broke: 'failed', ...LEAVING } as const
/**
 * These stay what they are; whether the provider still has them is told by `goneAt`, and said when it does not confirm.
 */
const OVER = { releaseUnanswered: 'releaseUnconfirmed' } as const

export const MACHINE_LIFE: Record<MachineState, Partial<Record<MachineEvent, MachineState>>> = {
  // Some are there before they are asked for: they enrol by themselves.
  asked: {
    allocated: 'allocated',
    refused: 'refused',
    enrolled: 'enrolled',
    releaseAsked: 'releasing',
    tookTooLong: 'failed',
  },
  allocated: { booting: 'booting', running: 'installing', ...ON_ITS_WAY },
  booting: { running: 'installing', ...ON_ITS_WAY },
  installing: { ...ON_ITS_WAY },
  // Every run calls the roll anew, so a machine that is taken is enrolled again.
  enrolled: { rollCallPassed: 'ready', rollCallFailed: 'unfit', taken: 'enrolled', letGo: 'enrolled', ...LEAVING },
  ready: { loadStarted: 'loading', taken: 'enrolled', letGo: 'ready', rollCallFailed: 'unfit', ...LEAVING },
  loading: { drainStarted: 'draining', loadEnded: 'ready', ...LEAVING },
  draining: { loadEnded: 'ready', ...LEAVING },
  releasing: { goneConfirmed: 'released', releaseUnanswered: 'releaseUnconfirmed' },
  releaseUnconfirmed: { goneConfirmed: 'released' },
  released: {},
  refused: {},
  failed: OVER,
  unfit: OVER,
  lost: OVER,
  reclaimed: OVER,
}

/** States in which a machine counts on for a run. */
export const IN_HAND: readonly MachineState[] = [
  'asked',
  'allocated',
  'booting',
  'installing',
  'enrolled',
  'ready',
  'loading',
  'draining',
]

/** The state after an event, or undefined when the event means nothing in this state. */
export function afterEvent(state: MachineState, event: MachineEvent): MachineState | undefined {
  return MACHINE_LIFE[state][event]
}

/** They have said that they are there. */
export const ENROLLED: readonly MachineState[] = ['enrolled', 'ready', 'loading', 'draining']

/** It went wrong while a run counted on it; whether the provider still has it is another matter. */
export const GONE_WRONG: readonly MachineState[] = ['failed', 'unfit', 'lost', 'reclaimed']

/** Somebody should look at it. */
export const TROUBLED: readonly MachineState[] = ['refused', 'failed', 'unfit', 'lost', 'releaseUnconfirmed']

/** Words an operator reads. */
export const MACHINE_WORDS: Record<MachineState, string> = {
  asked: 'asked',
  allocated: 'allocated',
  booting: 'booting',
  installing: 'installing',
  enrolled: 'enrolled',
  ready: 'ready',
  loading: 'loading',
  draining: 'draining',
  releasing: 'releasing',
  released: 'released',
  refused: 'refused',
  failed: 'failed',
  unfit: 'unfit',
  lost: 'lost',
  reclaimed: 'reclaimed',
  releaseUnconfirmed: 'release unconfirmed',
}

/** All of them, in the order of a life. */
export const MACHINE_STATES = keysIn(MACHINE_WORDS)
