/**
 * Passwords: hashed with Argon2id, a memory-hard function, off the main thread. Its parameters are OWASP's (Password
 * Storage Cheat Sheet, Argon2id: 19 MiB, 2 passes, 1 lane); the hash names them, so that they can be raised later.
 */
import { hash, verify } from '@node-rs/argon2'

const COST = { memoryCost: 19_456, timeCost: 2, parallelism: 1 } as const

/**
 * Letters of a password that stands alone: NIST SP 800-63B-4, 3.1.1.2 (from memory), asks for 15 where nothing else is
 * asked for, no rules of composition, and that long ones are taken.
 */
export const LEAST_LETTERS = 15
export const MOST_LETTERS = 200

/** The same letters can be typed as different code points (the same section: normalise before hashing). */
const typed = (password: string) => password.normalize('NFKC')

export const hashed = (password: string): Promise<string> => hash(typed(password), COST)

/** Of nobody: someone who does not exist takes as long to refuse as someone who gave a wrong password. */
const nobody = hashed('nobody')

/** @param kept undefined: nobody of that name, or without a password */
export async function isPassword(kept: string | undefined, password: string): Promise<boolean> {
  const is = await verify(kept ?? (await nobody), typed(password))
  return kept !== undefined && is
}
