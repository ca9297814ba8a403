/**
 * Signs what is sent to a program, so that it can tell that it came from here and is as it was sent: HTTP message
 * signatures (RFC 9421) by HMAC-SHA256, over a digest of the content (RFC 9530).
 */
import { createHash, createHmac } from 'node:crypto'

export interface SignedRequest {
  method: string
  address: string
  contentType: string
  content: string
  /** s since 1970. */
  created: number
  /** Name of the key. */
  keyId: string
}

const COVERED = '("@method" "@target-uri" "content-type" "content-digest")'

/** `sha-256=:…:` */
export const contentDigest = (content: string): string =>
  `sha-256=:${createHash('sha256').update(content).digest('base64')}:`

/** @param key secret both sides know @returns headers that go with it */
export function signatureHeaders(request: SignedRequest, key: string): Record<string, string> {
  const { method, address, contentType, content, created, keyId } = request
  const digest = contentDigest(content)
  const params = `${COVERED};created=${created};keyid="${keyId}";alg="hmac-sha256"`
  const lines = [
    ['@method', method],
    ['@target-uri', address],
    ['content-type', contentType],
    ['content-digest', digest],
  ] as const
  return {
    'content-digest': digest,
    'signature-input': `vornak=${params}`,
    signature: `vornak=:${macOf(signatureBase(lines, params), key)}:`,
  }
}

/** What is signed (RFC 9421, 2.5). */
export const signatureBase = (lines: readonly (readonly [string, string])[], params: string): string =>
  [...lines.map(([name, value]) => `"${name}": ${value}`), `"@signature-params": ${params}`].join('\n')

/** @param key text, or bytes of it */
export const macOf = (base: string, key: string | Uint8Array): string =>
  createHmac('sha256', key).update(base).digest('base64')
