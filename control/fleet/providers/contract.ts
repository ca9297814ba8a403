/** What every way of getting machines offers. One file per way beside this one. */
import type { RegionOffer } from '../../../core/plan/document'

/** A machine as its provider sees it. `gone`: it costs nothing any more, though it may still be listed. */
export interface ProviderMachine {
  ref: string
  name: string
  region: string
  type: string
  state: 'pending' | 'booting' | 'running' | 'stopping' | 'gone'
}

export interface MachineRequest {
  region: string
  type: string
  name: string
  /** Asking again with the same key asks for the same machine. */
  idempotencyKey: string
  /** Given to the generator program on the machine: its controller and token. */
  environment: Record<string, string>
  /** The provider itself ends the machine after this, s. */
  endsAfterS: number
}

/** The provider will not give this machine, and says why. */
export interface Refusal { code: string, sentence: string }

/** The provider did not answer, or not as agreed. Trying again may help. */
export class ProviderSilent extends Error {
  override name = 'ProviderSilent'
}

export interface Provider {
  readonly id: string
  /** Name for people. */
  readonly name: string
  /** @throws ProviderSilent */
  offers(): Promise<RegionOffer[]>
  /** @throws ProviderSilent */
  create(request: MachineRequest): Promise<{ ref: string } | { refusal: Refusal }>
  /** Everything it has of ours. @throws ProviderSilent */
  list(): Promise<ProviderMachine[]>
  /** Asks for the end of a machine; one that is gone already is no error. @throws ProviderSilent */
  release(ref: string): Promise<void>
}
