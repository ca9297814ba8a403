/**
 * Machines that come by themselves: one-time tokens, what is let in, what is offered where they stand, and when they
 * are gone.
 */
import { join } from 'node:path'
import { Invitations } from '../../control/machines/invitations'
import type { Clock } from '../../control/clock'
import { bundleOf } from '../../control/link/door'
import { hashOf } from '../../control/link/generator-hub'
import { selfEnrolled } from '../../control/machines/providers/self-enrolled'
import { invitationStore } from '../../control/store/invitations'
import { machineStore } from '../../control/store/machines'
import { openStore } from '../../control/store/open'
import { runStore } from '../../control/store/runs'
import { ownFolder } from '../build/folder'
import { runDocument } from '../build/plans'

const folder = ownFolder()
const stores: { close(): void }[] = []
afterAll(() => stores.forEach(s => s.close()))
const MIN = 60_000

function desk() {
  const store = openStore(join(folder, `${stores.length}.db`))
  stores.push(store)
  let now = 1_000_000
  const clock = { now: () => now } as Clock
  const machines = machineStore(store)
  const tables = invitationStore(store)
  const connected = new Set<string>()
  return {
    machines,
    connected,
    invitations: new Invitations({
      invitations: tables,
      machines,
      clock,
      door: { address: () => 'https://127.0.0.1:4701', pin: PIN, program: () => bundleOf(Buffer.from('program')) },
    }),
    runs: runStore(store),
    self: selfEnrolled({
      machines,
      invitations: tables,
      connected: id => connected.has(id),
      installation: 'vornak-x',
      clock,
    }),
    move: (ms: number) => {
      now += ms
    },
  }
}
const PIN = `sha256//${'A'.repeat(43)}=`
const WISH = { location: 'LAB', machines: 1, expiresMin: 30, leaseMin: 60 }
/** The token that stands in the text to paste. */
const tokenIn = (texts: object) => /VORNAK_TOKEN=["']?([\w-]{43})/.exec(JSON.stringify(texts).replace(/\\"/g, '"'))![1]!

describe('an invitation', () => {
  it('is a token for each machine, shown once: only its hash is kept', () => {
    const { invitations } = desk()
    const made = invitations.invite({ ...WISH, machines: 3 })
    const tokens = made.map(tokenIn)
    expect(new Set(tokens).size).toBe(3)
    expect(made.map(m => m.id)).toEqual(tokens.map(hashOf))
    expect(JSON.stringify(invitations.open())).not.toContain(tokens[0])
    expect(invitations.open().map(o => [o.location, o.expiresAt - o.madeAt, o.leaseMs])).toEqual([
      ['LAB', 30 * MIN, 60 * MIN],
      ['LAB', 30 * MIN, 60 * MIN],
      ['LAB', 30 * MIN, 60 * MIN],
    ])
  })

  it('that cannot be written is refused, and none is made', () => {
    const { invitations } = desk()
    expect(() => invitations.invite({ ...WISH, proxy: 'not an address' })).toThrow()
    expect(invitations.open()).toEqual([])
  })

  it('lets one machine in, named by where it stands; the same token a second time is a used one', () => {
    const { invitations, machines } = desk()
    const [first, second] = invitations.invite({ ...WISH, machines: 2 })
    expect(invitations.admit(first!.id)).toMatchObject({ machineId: 'own-lab-1', usedAt: undefined })
    expect(invitations.admit(second!.id)).toMatchObject({ machineId: 'own-lab-2' })
    expect(machines.out().map(m => [m.name, m.type, m.ref, m.price.perHour, m.leaseEndsAt - m.askedAt])).toEqual([
      ['LAB-1', 'own', 'own-lab-1', 0, 60 * MIN],
      ['LAB-2', 'own', 'own-lab-2', 0, 60 * MIN],
    ])
    expect(invitations.admit(first!.id)).toMatchObject({ machineId: 'own-lab-1', usedAt: expect.any(Number) })
    expect(invitations.open()).toEqual([])
  })

  it('is over when its time is, and when it is withdrawn; a token nobody made is none', () => {
    const { invitations, machines, move } = desk()
    const [late, withdrawn] = invitations.invite({ ...WISH, machines: 2 })
    invitations.withdraw(withdrawn!.id)
    expect(() => invitations.withdraw(withdrawn!.id)).toThrow('still open')
    expect(invitations.admit(withdrawn!.id)).toBeUndefined()
    move(31 * MIN)
    expect(invitations.open()).toEqual([])
    const admitted = invitations.admit(late!.id)!
    expect([admitted.machineId, admitted.usedAt]).toEqual(['', undefined])
    expect(admitted.expiresAt).toBeLessThan(1_000_000 + 31 * MIN)
    expect(invitations.admit(hashOf('rubbish'))).toBeUndefined()
    expect(machines.out()).toEqual([])
  })
})

describe('machines that came by themselves', () => {
  const facts = (cores: number, memoryMb: number) => ({
    hostname: 'h',
    platform: 'linux',
    node: 'v20',
    cores,
    memoryBytes: memoryMb * 1024 * 1024,
    descriptors: 1024,
  })

  it('are offered where they stand, as the smallest of them is, and never made', async () => {
    const { invitations, machines, self, runs } = desk()
    const made = invitations.invite({ ...WISH, machines: 3 })
    // A place that only an invitation names is known, with nobody there.
    expect(await self.offers()).toMatchObject([{ region: 'LAB', quota: { most: 0, used: 0 }, selfEnrolled: true }])
    for (const m of made.slice(0, 2)) invitations.admit(m.id)
    machines.setFacts('own-lab-1', facts(4, 8192))
    machines.setFacts('own-lab-2', facts(2, 16_384))
    machines.take('own-lab-1', {
      runId: runs.create('p', runDocument(), 0),
      location: 'LAB',
      place: 0,
      name: 'LAB-1',
      at: 1_000_000,
    })
    expect(await self.offers()).toMatchObject([
      {
        region: 'LAB',
        quota: { most: 2, used: 1 },
        types: [{ name: 'own', vcpu: 2, memoryMb: 8192, pricePerHour: 0 }],
      },
    ])
    expect(await self.create({ region: 'LAB' } as never)).toMatchObject({
      refusal: { passing: true, sentence: 'No machine waits at LAB: invite one on the Fleet screen.' },
    })
  })

  it('are gone when they have hung up after their release, or long after their lease, and not before', async () => {
    const { invitations, machines, self, connected, move } = desk()
    for (const m of invitations.invite({ ...WISH, machines: 2 })) invitations.admit(m.id)
    connected.add('own-lab-1').add('own-lab-2')
    const states = async () => (await self.list()).map(m => [m.ref, m.state])
    machines.setReleaseAsked('own-lab-1', 1_000_000)
    move(10_000)
    expect(await states()).toEqual([
      ['own-lab-1', 'running'],
      ['own-lab-2', 'running'],
    ])
    connected.clear()
    expect(await states()).toEqual([
      ['own-lab-1', 'gone'],
      ['own-lab-2', 'running'],
    ])
    move(61 * MIN)
    expect((await self.list())[1]).toMatchObject({ state: 'running' })
    move(2 * MIN)
    expect((await self.list())[1]).toMatchObject({
      state: 'gone',
      sentence: 'its lease is over: its generator has ended itself',
    })
    await self.release('own-lab-2')
  })
})
