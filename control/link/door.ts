/** The door that generators come in by, as those need it who send them there. */
import { createHash } from 'node:crypto'

/** The generator program as it is handed out and brought to hosts. */
export interface Bundle {
  content: Uint8Array
  hash: string
}

export function bundleOf(content: Uint8Array): Bundle {
  return { content, hash: createHash('sha256').update(content).digest('hex') }
}

export interface Door {
  /** Where they knock: `https://host:port`. */
  address: () => string
  /** What they know it by; undefined while its key cannot be unsealed. */
  readonly pin: string | undefined
  /** The program that is handed out there. */
  program: () => Bundle
}
