/** What a roll call means beside its siblings; going with fewer machines. */
import { goWith } from '../../core/run/go-with'
import { judgeRollCall, type CalledMachine, type ReachedHost, type RollCallReport } from '../../core/fleet/roll-call'
import { hill, plan, runDocument } from '../build/plans'

const reach = (over: Partial<ReachedHost> = {}): ReachedHost => ({
  host: 'p:443',
  ok: true,
  addresses: ['192.0.2.7'],
  lookupMs: 1,
  connectMs: 2,
  tlsMs: 3,
  firstByteMs: 4,
  status: 200,
  challenge: false,
  from: '198.51.100.1',
  ...over,
})
const report = (over: Partial<RollCallReport> = {}): RollCallReport => ({
  nonce: 'n',
  program: '1.0',
  speed: 50,
  memoryFreeBytes: 1e9,
  descriptors: 65_536,
  ports: 28_232,
  diskFreeBytes: 1e10,
  reached: [reach()],
  runtimes: [],
  ...over,
})
let count = 0
const called = (location: string, over: Partial<CalledMachine> = {}): CalledMachine => {
  const n = ++count
  return {
    id: `m${n}`,
    name: `${location}-${n}`,
    location,
    type: 't',
    address: `198.51.100.${n}`,
    clock: { offsetMs: 1, uncertaintyMs: 1 },
    report: report(),
    nonce: 'n',
    ...over,
  }
}
const codes = (...machines: CalledMachine[]) =>
  judgeRollCall(machines, '1.0').map(f => `${f.machine} ${f.code} ${f.weight}`)

describe('a roll call', () => {
  it('has nothing to say when everybody is well', () => {
    expect(codes(called('REY'), called('REY'), called('TAV'))).toEqual([])
  })

  it.each<[string, Partial<CalledMachine>, string]>([
    ['said nothing', { report: undefined }, 'silent unfit'],
    ['repeats an old answer', { nonce: 'another' }, 'nonce unfit'],
    ['is of another release', { report: report({ program: '0.9' }) }, 'program note'],
    ['has a clock nobody knows well', { clock: { offsetMs: 0, uncertaintyMs: 301 } }, 'clock unfit'],
    ['has a clock five minutes off, known well', { clock: { offsetMs: 300_000, uncertaintyMs: 2 } }, 'clockOff note'],
    [
      'does not reach the target',
      { report: report({ reached: [reach({ ok: false, problem: 'refused' })] }) },
      'unreached unfit',
    ],
    [
      'lacks a program',
      { report: report({ runtimes: [{ program: 'python3', ok: false, said: 'is not there' }] }) },
      'runtime unfit',
    ],
    ['may open few descriptors', { report: report({ descriptors: 1024 }) }, 'descriptors note'],
    ['has few ports', { report: report({ ports: 2000 }) }, 'ports note'],
    ['has little disk', { report: report({ diskFreeBytes: 1e6 }) }, 'disk note'],
  ])('tells of one that %s', (_, over, said) => {
    const wrong = called('REY', over)
    expect(codes(called('TAV'), wrong)).toEqual([`${wrong.id} ${said}`])
  })

  it('shows the slow sibling, by the median of its kind', () => {
    const slow = called('REY', { report: report({ speed: 39 }) })
    expect(codes(called('REY'), called('REY'), slow)).toEqual([`${slow.id} slow note`])
    expect(codes(called('REY'), called('TAV', { report: report({ speed: 20 }) }))).toEqual([])
  })

  it.each([403, 429])('calls a location blocked when it alone gets %s, not when everybody does', (status) => {
    const turned = () => ({ report: report({ reached: [reach({ status })] }) })
    const [a, b] = [called('REY', turned()), called('REY', turned())]
    expect(codes(a, b, called('TAV'))).toEqual([`${a.id} blocked note`, `${b.id} blocked note`])
    expect(codes(called('REY', turned()), called('TAV', turned()))).toEqual([])
    expect(codes(called('REY', turned()), called('REY'), called('TAV'))).toEqual([])
  })

  it('takes a challenge for a block, whatever its status', () => {
    const asked = called('REY', { report: report({ reached: [reach({ challenge: true })] }) })
    expect(codes(asked, called('TAV'))).toEqual([`${asked.id} blocked note`])
  })

  it('points out machines that share an address', () => {
    const [a, b] = [called('REY', { address: '203.0.113.9' }), called('TAV', { address: '203.0.113.9' })]
    expect(
      codes(a, b, called('OSA'), called('OVK', { address: undefined }), called('OVK', { address: undefined })),
    ).toEqual([`${a.id} sharedAddress note`, `${b.id} sharedAddress note`])
  })
})

describe('going with fewer machines', () => {
  const type = { name: 't', vcpu: 1, memoryMb: 1, pricePerHour: 1, billingGrainS: 60 }
  const document = runDocument({
    plan: plan({ groups: [{ letter: 'A', name: 'A', journeyId: 'look', profile: hill(101, 10, 10, 10) }] }),
    fleet: [
      { location: 'REY', type, machines: 4 },
      { location: 'TAV', type, machines: 2 },
    ],
  })
  it('keeps shares and lowers every level to what the scarcest location can carry, in whole users', () => {
    const went = goWith(document, [3, 2])!
    expect(went.wentWith).toEqual({ machines: 5, wanted: 6, factor: 0.75 })
    expect(went.plan.groups[0]!.profile.segments.map(s => s.to)).toEqual([75, 75, 0])
    expect(went.plan.placement).toEqual(document.plan.placement)
    expect(went.fleet.map(o => o.machines)).toEqual([3, 2])
  })
  it('lowers rates and their bounds alike, and cannot go without a location', () => {
    const rate = {
      ...document,
      plan: plan({
        groups: [
          {
            letter: 'A',
            name: 'A',
            journeyId: 'look',
            profile: hill(5, 1, 1, 1),
            drive: { kind: 'requests', fewestUsers: 3, mostUsers: 40 },
          },
        ],
      }),
    }
    const went = goWith(rate, [2, 2])!
    expect(went.plan.groups[0]).toMatchObject({
      drive: { fewestUsers: 1, mostUsers: 20 },
      profile: { segments: [{ to: 2.5 }, { to: 2.5 }, { to: 0 }] },
    })
    expect(goWith(document, [4])).toBeUndefined()
  })
})
