/**
 * The controller is known by its public key, however often its certificate is renewed: the SHA-256 of its
 * SubjectPublicKeyInfo (RFC 7469, section 2.4), written as curl's `--pinnedpubkey` reads it.
 */
import { createHash, X509Certificate, type KeyObject } from 'node:crypto'
import { Agent } from 'node:https'
import type { Duplex } from 'node:stream'
import { connect, type ConnectionOptions, type TLSSocket } from 'node:tls'

const PIN = /^sha256\/\/[A-Za-z0-9+/]{43}=$/

/** @param text `sha256//` and base64 */
export const isPin = (text: string): boolean => PIN.test(text)

export function pinOf(publicKey: KeyObject): string {
  return `sha256//${createHash('sha256').update(publicKey.export({ type: 'spki', format: 'der' })).digest('base64')}`
}

/** @param certificate PEM or DER */
export const pinOfCertificate = (certificate: string | Buffer): string =>
  pinOf(new X509Certificate(certificate).publicKey)

/** The one that answers has another key. */
export class OtherKey extends Error {
  override name = 'OtherKey'
}

/** With the key alone it is held against the pin: authorities and names have no say. */
export const PINNED: ConnectionOptions = { rejectUnauthorized: false, minVersion: 'TLSv1.2' }

/** Waits for the other's key; before it is known nothing is sent. @throws OtherKey, and the connection is closed */
export function heldToPin(socket: TLSSocket, pin: string): Promise<TLSSocket> {
  return new Promise((resolve, reject) => {
    socket.once('error', reject)
    socket.once('close', () => reject(new Error('The connection was closed before the other’s key was known.')))
    socket.once('secureConnect', () => {
      const certificate = socket.getPeerX509Certificate()
      if (certificate && pinOf(certificate.publicKey) === pin) return resolve(socket)
      const found = certificate ? pinOf(certificate.publicKey) : 'none'
      socket.destroy(
        new OtherKey(`The one that answers has the key ${found}, not ${pin}: it is another controller, or somebody between.`),
      )
    })
  })
}

/** Connects to one that has the pinned key, and to nobody else. */
export class PinnedAgent extends Agent {
  constructor(private readonly pin: string) {
    super({ maxCachedSessions: 0 })
  }

  override createConnection(
    options: ConnectionOptions,
    callback?: (error: Error | null, stream: Duplex) => void,
  ): undefined {
    heldToPin(connect({ ...options, ...PINNED }), this.pin).then(
      socket => callback?.(null, socket),
      // With an error there is no socket, which its types leave out.
      (error: Error) => callback?.(error, undefined as never),
    )
  }
}
