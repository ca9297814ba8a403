/** What the fleet is given, and what its parts work with. */
import type { Clock } from '../clock'
import type { Machine, MachineStore, Waiting } from '../store/machines'
import type { MachineEvent, MachineState } from '../../core/run/machine-life'
import type { Door } from '../link/door'
import type { Provider } from './providers/contract'
import type { StageBounds } from './stage-times'

export interface FleetListener {
  onChange?(machine: Machine, from: MachineState, reason: string): void
  /** There are others than before. */
  onStrays?(): void
  /** The provider will take a machine back. */
  onReclaim?(machine: Machine): void
}

export interface FleetOptions {
  machines: MachineStore
  /** Ways to machines; may change while Vornak runs. */
  providers: ReadonlyMap<string, Provider>
  clock: Clock
  /** Where generators come in. */
  door: Pick<Door, 'address' | 'pin'>
  /** Secret from which tokens are derived, so that an interrupted order can be repeated. @throws CannotUnseal */
  secret: () => string
  /** Prefix of all machine names, by which strays are recognised as ours. */
  installation: string
  /** Those of installations this one was restored from: their machines are strays here. */
  formerInstallations?: readonly string[]
  /** Whether a machine's generator is connected now. */
  connected: (machineId: string) => boolean
  /**
   * When a machine's generator was last heard, and when one that is not heard any more surely loads nobody, ms since
   * 1970.
   */
  lastWord: (machineId: string) => { heardAt: number, graceOverAt: number }
  /** Lets a generator end by itself, before its machine is taken. */
  dismiss?: (machineId: string, reason: string) => void
  /** Why one more machine may not be taken now. */
  mayTake?: (machine: Machine, now: number) => Pick<Waiting, 'code' | 'sentence'> | undefined
  /** Whether a machine's run still needs it, or what it may bring back. */
  needed?: (machine: Machine) => boolean
  bounds?: StageBounds
  listener?: FleetListener
}

/** What the fleet's parts work with. */
export type FleetTools = FleetOptions & {
  mayTake: NonNullable<FleetOptions['mayTake']>
  onReclaim: (machine: Machine) => void
  change: (machineId: string, event: MachineEvent, reason: string) => boolean
  extend: (machineId: string, leaseEndsAt: number, reason: string) => Promise<void>
  stopped: () => boolean
}
