/**
 * The key that generators know their controller by. It stays for good, sealed in the store and so in its copies; only
 * certificates made for it are renewed, so that no machine with its pin is stranded.
 */
import { createPrivateKey, createPublicKey, generateKeyPairSync, type KeyObject, webcrypto } from 'node:crypto'
import { pinOf, pinOfCertificate } from '../../protocol/pin'
import type { Clock } from '../clock'
import type { FactStore } from '../store/facts'
import { CannotUnseal, type Sealing } from '../store/sealing'

/** Certificate and private key of the door, PEM. */
export interface DoorCertificate {
  cert: string
  key: string
}

const FACT = 'door-key'
const DAY_MS = 86_400_000
/** How long a certificate made here is good for, days: many times what passes until the next one is made. */
const GOOD_DAYS = 90

export class DoorKey {
  private readonly own: KeyObject | undefined
  private readonly clock: Clock

  /** @param given a certificate from elsewhere, which is shown as it is */
  constructor(
    { facts, sealing, clock }: { facts: FactStore, sealing: Sealing, clock: Clock },
    private readonly given?: DoorCertificate,
  ) {
    this.clock = clock
    if (!given && !sealing.trouble) this.own = keptKey(facts, sealing)
  }

  /** Undefined while the key cannot be unsealed. */
  get pin(): string | undefined {
    if (this.given) return pinOfCertificate(this.given.cert)
    return this.own && pinOf(createPublicKey(this.own))
  }

  /** What the door shows: given, or made now and good for 90 days. Undefined while the key cannot be unsealed. */
  async certificate(): Promise<DoorCertificate | undefined> {
    if (this.given || !this.own) return this.given
    return { cert: await certificateFor(this.own, this.clock.now()), key: pem(this.own) }
  }
}

/** @returns undefined when it was sealed with another key than there is */
function keptKey(facts: FactStore, sealing: Sealing): KeyObject | undefined {
  const kept = facts.get(FACT)
  if (kept !== undefined) {
    try {
      return createPrivateKey(sealing.unseal(Buffer.from(kept, 'base64'), FACT))
    }
    catch (error) {
      if (error instanceof CannotUnseal) return undefined
      throw error
    }
  }
  const { privateKey } = generateKeyPairSync('ec', { namedCurve: 'P-256' })
  facts.set(FACT, sealing.seal(pem(privateKey), FACT).toString('base64'))
  return privateKey
}

const pem = (key: KeyObject): string => key.export({ type: 'pkcs8', format: 'pem' }).toString()

/** It says nothing but the key: generators hold that against their pin, and names may change. */
async function certificateFor(key: KeyObject, now: number): Promise<string> {
  // Needed once a day at most.
  await import('reflect-metadata')
  const { X509CertificateGenerator } = await import('@peculiar/x509')
  const algorithm = { name: 'ECDSA', namedCurve: 'P-256', hash: 'SHA-256' }
  const { subtle } = webcrypto
  const publicDer = createPublicKey(key).export({ type: 'spki', format: 'der' })
  const keys = {
    privateKey: await subtle.importKey('pkcs8', key.export({ type: 'pkcs8', format: 'der' }), algorithm, true, ['sign']),
    publicKey: await subtle.importKey('spki', publicDer, algorithm, true, ['verify']),
  }
  const certificate = await X509CertificateGenerator.createSelfSigned(
    {
      name: 'CN=Vornak generators',
      // A day earlier: clocks of machines differ.
      notBefore: new Date(now - DAY_MS),
      notAfter: new Date(now + GOOD_DAYS * DAY_MS),
      signingAlgorithm: algorithm,
      keys,
    },
    // Node’s own is what the package takes; its types are those of browsers.
    webcrypto as never,
  )
  return certificate.toString('pem')
}
