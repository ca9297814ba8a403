/** The life of a generator's machine, as a table: which event takes it from which state to which. Nothing else changes a state. */

export type MachineState =
  | 'asked' | 'allocated' | 'booting' | 'installing' | 'enrolled' | 'ready' | 'loading' | 'draining' | 'releasing' | 'released'
  | 'refused' | 'failed' | 'unfit' | 'lost' | 'reclaimed' | 'releaseUnconfirmed'

export type MachineEvent =
  | 'allocated' | 'refused' | 'booting' | 'running' | 'enrolled' | 'rollCallPassed' | 'rollCallFailed' | 'loadStarted' | 'drainStarted' | 'loadEnded'
  | 'releaseAsked' | 'goneConfirmed' | 'tookTooLong' | 'stoppedAnswering' | 'takenBack' | 'releaseUnanswered'

const LEAVING = { releaseAsked: 'releasing', stoppedAnswering: 'lost', takenBack: 'reclaimed', tookTooLong: 'failed' } as const

export const MACHINE_LIFE: Record<MachineState, Partial<Record<MachineEvent, MachineState>>> = {
  asked: { allocated: 'allocated', refused: 'refused', releaseAsked: 'releasing', tookTooLong: 'failed' },
  allocated: { booting: 'booting', running: 'installing', enrolled: 'enrolled', ...LEAVING },
  booting: { running: 'installing', enrolled: 'enrolled', ...LEAVING },
  installing: { enrolled: 'enrolled', ...LEAVING },
  enrolled: { rollCallPassed: 'ready', rollCallFailed: 'unfit', ...LEAVING },
  ready: { loadStarted: 'loading', ...LEAVING },
  loading: { drainStarted: 'draining', loadEnded: 'ready', ...LEAVING },
  draining: { loadEnded: 'ready', ...LEAVING },
  releasing: { goneConfirmed: 'released', releaseUnanswered: 'releaseUnconfirmed' },
  releaseUnconfirmed: { goneConfirmed: 'released', releaseAsked: 'releasing' },
  released: {},
  refused: {},
  // These stay what they are; whether the provider still has them is told by `goneAt`.
  failed: {},
  unfit: {},
  lost: {},
  reclaimed: {},
}

/** States in which a machine counts on for a run. */
export const IN_HAND: readonly MachineState[] = ['asked', 'allocated', 'booting', 'installing', 'enrolled', 'ready', 'loading', 'draining']

/** The state after an event, or undefined when the event means nothing in this state. */
export function afterEvent(state: MachineState, event: MachineEvent): MachineState | undefined {
  return MACHINE_LIFE[state][event]
}

/** Words an operator reads. */
export const MACHINE_WORDS: Record<MachineState, string> = {
  asked: 'asked', allocated: 'allocated', booting: 'booting', installing: 'installing', enrolled: 'enrolled', ready: 'ready', loading: 'loading', draining: 'draining',
  releasing: 'releasing', released: 'released', refused: 'refused', failed: 'failed', unfit: 'unfit', lost: 'lost', reclaimed: 'reclaimed', releaseUnconfirmed: 'release unconfirmed',
}
