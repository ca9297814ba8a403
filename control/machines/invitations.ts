/** Lets machines in that somebody took a one-time token to, and writes the text to paste there. */
import { randomBytes } from 'node:crypto'
import { FREE } from '../../core/offers/cost'
import { enrolmentTexts, type EnrolmentTexts } from '../../core/formats/enrolment-text'
import type { Clock } from '../clock'
import { ControlError, notFound } from '../errors'
import type { InvitationStore } from '../store/invitations'
import type { Door } from '../link/door'
import type { Enrolment, MachineStore } from '../store/machines'
import { hashOf } from '../link/generator-hub'
import { OWN_TYPE, SELF_ID } from './providers/self-enrolled'
import { messageOf } from '../../core/values/thrown'

export interface Wish {
  location: string
  machines: number
  expiresMin: number
  leaseMin: number
  proxy?: string
  caFile?: string
}
export interface Invited extends EnrolmentTexts {
  id: string
  expiresAt: number
}

export class Invitations {
  constructor(
    private readonly options: {
      invitations: InvitationStore
      machines: MachineStore
      clock: Clock
      door: Door
    },
  ) {}

  /** One token for each machine. It is shown now and never again. */
  invite({ location, machines: count, expiresMin, leaseMin, proxy, caFile }: Wish): Invited[] {
    const { invitations, clock, door } = this.options
    const now = clock.now()
    const { pin } = door
    if (!pin)
      throw new ControlError(
        'sealed',
        500,
        'Machines cannot come in: the key of their door is sealed with a key file that is not here.',
        'Put it back, or say with VORNAK_KEY_FILE where it is, and start again.',
      )
    const texts = (token: string) =>
      enrolmentTexts({
        controller: door.address(),
        pin,
        programSum: door.program().hash,
        token,
        ...(proxy ? { proxy } : {}),
        ...(caFile ? { caFile } : {}),
      })
    try {
      texts('x')
    }
    catch (error) {
      throw new ControlError('invitation', 400, messageOf(error), 'Correct it; nothing was made.')
    }
    return Array.from({ length: count }, () => {
      const token = randomBytes(32).toString('base64url')
      const hash = hashOf(token)
      invitations.add({ hash, location, madeAt: now, expiresAt: now + expiresMin * 60_000, leaseMs: leaseMin * 60_000 })
      return {
        id: hash,
        expiresAt: now + expiresMin * 60_000,
        ...texts(token),
      }
    })
  }

  /** Those nobody has used, and still may. */
  open(): { id: string, location: string, madeAt: number, expiresAt: number, leaseMs: number }[] {
    return this.options.invitations
      .open(this.options.clock.now())
      .map(({ hash, location, madeAt, expiresAt, leaseMs }) => ({ id: hash, location, madeAt, expiresAt, leaseMs }))
  }

  withdraw(id: string): void {
    if (!this.options.invitations.withdraw(id)) throw notFound('invitation of this kind that is still open')
  }

  /**
   * A token nobody ordered a machine for: the machine becomes one of ours as it enrols. @returns undefined when it is
   * no invitation, or was used or has expired: then as an enrolment says it
   */
  admit(hash: string): Enrolment | undefined {
    const { invitations, machines, clock } = this.options
    const found = invitations.find(hash)
    if (!found) return undefined
    if (found.machineId !== undefined)
      return { machineId: found.machineId, expiresAt: found.expiresAt, usedAt: found.madeAt, publicKey: undefined }
    const now = clock.now()
    if (found.expiresAt < now)
      return { machineId: '', expiresAt: found.expiresAt, usedAt: undefined, publicKey: undefined }
    const number = invitations.used() + 1
    const place = machines.out().filter(m => m.provider === SELF_ID && m.region === found.location).length
    const id = `own-${found.location.toLowerCase()}-${number}`
    machines.create({
      id,
      provider: SELF_ID,
      region: found.location,
      location: found.location,
      place,
      name: `${found.location}-${place + 1}`,
      type: OWN_TYPE,
      idempotencyKey: id,
      askedAt: now,
      leaseEndsAt: now + found.leaseMs,
      price: FREE,
    })
    machines.setRef(id, id, now)
    machines.addEnrolment(hash, id, found.expiresAt)
    invitations.use(hash, id)
    return machines.enrolment(hash)
  }
}
