/** What is given once and kept as a hash: cookies and API tokens. */
import { createHash, randomBytes } from 'node:crypto'

/** 256 random bits need no slow hash: nobody can try them out. */
export const newSecret = (): string => randomBytes(32).toString('base64url')

export const secretHash = (secret: string): string => createHash('sha256').update(secret).digest('base64url')
