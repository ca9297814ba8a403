/**
 * Machines that come by themselves, with a one-time token somebody took there. They are not made or ended here: they
 * are let in, and let go.
 */
import type { RegionOffer } from '../../../core/offers/machine-type'
import type { Clock } from '../../clock'
import type { InvitationStore } from '../../store/invitations'
import type { MachineStore } from '../../store/machines'
import type { Provider, ProviderMachine } from './contract'
import { present } from '../../../core/values/present'

export const SELF_ID = 'self'
export const OWN_TYPE = 'own'

/** A generator ends itself with its lease; after this grace nobody waits for its word any more, ms. */
const GRACE_MS = 90_000

// eslint-disable-next-line max-lines-per-function -- a closure: its functions share what it keeps
export function selfEnrolled({
  machines,
  invitations,
  connected,
  installation,
  clock,
}: {
  machines: MachineStore
  invitations: InvitationStore
  connected: (machineId: string) => boolean
  installation: string
  clock: Clock
}): Provider {
  const own = () => machines.out().filter(m => m.provider === SELF_ID)
  return {
    id: SELF_ID,
    name: 'Self-enrolled',
    way: 'selfEnrolled',
    ownEnd: 'by powering off',
    mostBooting: 1000,
    offers() {
      const out = own()
      const places = new Set([...invitations.locations(clock.now()), ...out.map(m => m.region)])
      return Promise.resolve(
        [...places].sort().map((region): RegionOffer => {
          const here = out.filter(m => m.region === region)
          const cores = here.map(m => Math.max(1, Math.floor(m.facts?.cores ?? 1)))
          const memory = here.map(m => (m.facts?.memoryBytes ?? 1e9) / 1024 / 1024)
          return {
            region,
            selfEnrolled: true,
            bootS: 0,
            quota: { most: here.length, used: here.filter(m => m.runId !== undefined).length },
            types: [
              {
                name: OWN_TYPE,
                vcpu: cores.length ? Math.min(...cores) : 1,
                memoryMb: memory.length ? Math.min(...memory) : 1024,
                pricePerHour: 0,
                billingGrainS: 1,
              },
            ],
          }
        }),
      )
    },
    create: ({ region }) =>
      Promise.resolve({
        refusal: {
          code: 'not-enrolled',
          sentence: `No machine waits at ${region}: invite one on the Fleet screen.`,
          passing: true,
        },
      }),
    list: () =>
      Promise.resolve(
        own().map((m): ProviderMachine => {
          const here = connected(m.id)
          const over = !here && (m.releaseAskedAt !== undefined ? clock.now() - m.releaseAskedAt > 500 : false)
          const leaseOver = !here && clock.now() > m.leaseEndsAt + GRACE_MS
          return {
            ref: present(m.ref, 'a machine that came by itself has its name as reference'),
            name: `${installation}-${m.id}`,
            region: m.region,
            type: m.type,
            state: over || leaseOver ? 'gone' : 'running',
            ...(leaseOver ? { sentence: 'its lease is over: its generator has ended itself' } : {}),
          }
        }),
      ),
    // The hub tells its generator to end; it is gone when it has hung up.
    release: () => Promise.resolve(),
  }
}
