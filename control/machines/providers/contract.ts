/**
 * What every way of getting machines offers; one file per way beside this one. A way of your own needs this and nothing
 * else: docs/providers.md tells what each promise means.
 */
import type { Attached, RegionOffer } from '../../../core/offers/machine-type'

/** Something a provider has of ours. `gone`: it costs nothing any more, though it may still be listed. */
export interface ProviderMachine {
  ref: string
  name: string
  region: string
  type: string
  /** `stopped`: halted, and billed on for what is attached. `failed`: it came up broken, or could not be made ready. */
  state: 'pending' | 'booting' | 'running' | 'stopped' | 'failed' | 'stopping' | 'gone'
  /** Left out: a machine. What can be forgotten beside a machine costs too. */
  kind?: 'machine' | 'disk' | 'address'
  /** It takes the machine back then, ms since 1970. */
  reclaimAt?: number
  /** What it is doing, or why it failed. */
  sentence?: string
}

export interface MachineRequest {
  region: string
  type: string
  /** Begins with the label of this installation: foreign machines are never touched. */
  name: string
  /** Asking again with the same key asks for the same machine. */
  idempotencyKey: string
  /** Given to the generator program on the machine: its controller and token. */
  environment: Record<string, string>
  /** The provider itself ends the machine after this, where it can, s. */
  endsAfterS: number
  /** At the lower price, for a machine that may be taken back. */
  interruptible: boolean
  attached: Attached
}

/** The provider will not give this machine, and says why. `passing`: it may later (stock, quota); else never. */
export interface OrderRefusal {
  code: string
  sentence: string
  passing: boolean
}

/** A bill of the provider's own, for one machine and all that was attached to it. */
export interface Bill {
  ref: string
  amount: number
  currency: string
  final: boolean
}

/** The provider did not answer, or not as agreed. Trying again may help. */
export class ProviderSilent extends Error {
  override name = 'ProviderSilent'
}

/** How a machine ends when nobody is left to end it. */
export type OwnEnd = 'natively' | 'by powering off' | 'not'

export interface Provider {
  readonly id: string
  /** Name for people. */
  readonly name: string
  readonly way: 'cloud' | 'private' | 'selfEnrolled'
  readonly ownEnd: OwnEnd
  /** Machines that may be on their way at once. */
  readonly mostBooting: number
  /** @throws ProviderSilent */
  offers(): Promise<RegionOffer[]>
  /** @throws ProviderSilent: it is not known whether the machine was made */
  create(request: MachineRequest): Promise<{ ref: string } | { refusal: OrderRefusal }>
  /** Everything it has of ours. @throws ProviderSilent */
  list(): Promise<ProviderMachine[]>
  /** Asks for the end of a machine; one that is gone already is no error. @throws ProviderSilent */
  release(ref: string): Promise<void>
  /** Moves the provider's own end of a machine. Left out: it has none. @throws ProviderSilent */
  extend?(ref: string, endsAfterS: number): Promise<void>
  /** Called at every look for each machine that is out: what needs care gets it here (connecting again, preparing). */
  attend?(machine: {
    ref: string
    name: string
    region: string
    environment: Record<string, string>
    endsAfterS: number
    /** Its release has been asked for. */ ending: boolean
  }): void
  /**
   * Frames a generator could not send before it ended, as it left them on its machine; undefined: none. @throws
   * ProviderSilent
   */
  salvage?(ref: string): Promise<Uint8Array | undefined>
  /** Its own bills of these machines, as far as they are made. Left out: it publishes none. @throws ProviderSilent */
  bills?(refs: readonly string[]): Promise<Bill[]>
  /** Looks at the next listing for what may have been left anywhere, however long that takes. */
  searchAgain?(): void
  /** Connections and watches it keeps. */
  stop?(): void
}
