/**
 * Seals secrets at rest: AES-256-GCM (NIST SP 800-38D) with a key from a file outside the data folder, so that a copy
 * of the data gives nothing away.
 */
import { createCipheriv, createDecipheriv, randomBytes } from 'node:crypto'
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { dirname } from 'node:path'
import { ControlError } from '../errors'
import type { Store } from './open'
import { onlyRow } from './only-row'

export interface Sealing {
  /** What is wrong with the key, in words. */
  readonly trouble: string | undefined
  /**
   * Nonce of 12 bytes, tag of 16, then the text. @param about bound to it: a sealed value cannot be moved to another
   * place
   */
  seal(text: string, about: string): Buffer
  /** @throws CannotUnseal */
  unseal(sealed: Buffer, about: string): string
}

/** The key does not open what was sealed. */
export class CannotUnseal extends Error {
  override name = 'CannotUnseal'
}

/** Facts that hold what was sealed, or stand on it. */
export const SEALED_FACTS = ['secret', 'secret-sealed', 'door-key', 'mail-password', 'figure-goal', 'figure-goal-authorization'] as const

/** Whether the database holds anything that was sealed. */
export function isAnythingSealed(store: Store): boolean {
  const facts = 'facts WHERE name IN (\'secret-sealed\', \'door-key\', \'mail-password\')'
  return ['secrets', 'accounts', 'ssh_keys', 'hooks', facts].some(
    rows => onlyRow(store.prepare<[], { n: number }>(`SELECT EXISTS (SELECT 1 FROM ${rows}) AS n`).get()).n === 1,
  )
}

/**
 * Reads the key, or makes one that only its owner may read. Never while something is sealed with one that is gone: then
 * nothing is opened or sealed until it is back.
 *
 * @throws Error when the file holds no key
 */
export function sealingWith(keyFile: string, isSealed = false): Sealing {
  if (!existsSync(keyFile)) {
    if (isSealed) return lost(keyFile)
    mkdirSync(dirname(keyFile), { recursive: true })
    writeFileSync(keyFile, `${randomBytes(32).toString('hex')}\n`, { mode: 0o600, flag: 'wx' })
  }
  const key = Buffer.from(readFileSync(keyFile, 'utf8').trim(), 'hex')
  if (key.length !== 32)
    throw new Error(
      `VORNAK_KEY_FILE: ${keyFile} holds no key of 64 hexadecimal digits. Put back the file that belongs to this data, or choose another place and enter the secrets again.`,
    )
  return {
    trouble: undefined,
    seal(text, about) {
      const nonce = randomBytes(12)
      const cipher = createCipheriv('aes-256-gcm', key, nonce).setAAD(Buffer.from(about))
      const sealed = Buffer.concat([cipher.update(text, 'utf8'), cipher.final()])
      return Buffer.concat([nonce, cipher.getAuthTag(), sealed])
    },
    unseal(sealed, about) {
      try {
        const decipher = createDecipheriv('aes-256-gcm', key, sealed.subarray(0, 12))
          .setAAD(Buffer.from(about))
          .setAuthTag(sealed.subarray(12, 28))
        return Buffer.concat([decipher.update(sealed.subarray(28)), decipher.final()]).toString('utf8')
      }
      catch {
        throw new CannotUnseal(
          'The secret was sealed with another key: put back the key file that belongs to this data, or enter the secret again.',
        )
      }
    },
  }
}

function lost(keyFile: string): Sealing {
  const trouble = `The key file ${keyFile} is gone, and secrets are sealed with it. Put it back, or say with VORNAK_KEY_FILE where it is, and start again. Until then no secret can be used or kept.`
  return {
    trouble,
    seal() {
      throw new ControlError('sealed', 500, trouble, 'Then try again.')
    },
    unseal() {
      throw new CannotUnseal(trouble)
    },
  }
}
