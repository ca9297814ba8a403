/**
 * A generator is lost under load: what the others are told to take over, what is shed, and how held rates are held
 * back.
 */
import { loading } from '../../control/run/loading'
import { limitRates } from '../../control/run/reassignment'
import type { Group } from '../../core/plan/document'
import type { RunDocument } from '../../core/run/document'
import { assignedLoadsOf } from '../../core/run/assigned-load'
import type { ToGenerator } from '../../protocol/messages'
import { ownFolder } from '../build/folder'
import { hill, journey, plan, runDocument, step } from '../build/plans'
import { stageIn } from '../build/stage'
import { Parts } from '../../control/run/parts'

const folder = ownFolder()
const stores: { close(): void }[] = []
afterAll(() => stores.forEach(s => s.close()))

const TYPE = { name: 'brisk-1', vcpu: 1, memoryMb: 2048, pricePerHour: 0.06, billingGrainS: 60 }
/** A pass takes 2 s of pauses and 0.1 s for its answer. */
const SLOW = journey({ id: 'slow', round: [step({ think: { kind: 'uniform', fromMs: 2000, toMs: 2000 } })] })
const LOOKERS: Group = { letter: 'A', name: 'Lookers', journeyId: 'look', profile: hill(30, 0, 300, 0) }
const COMERS: Group = {
  letter: 'B',
  name: 'Comers',
  journeyId: 'slow',
  profile: hill(10, 0, 300, 0),
  drive: { kind: 'arrivals', spacing: 'even', mostInFlight: 1000 },
}
const RATED: Group = {
  letter: 'R',
  name: 'Askers',
  journeyId: 'slow',
  profile: hill(20, 0, 300, 0),
  drive: { kind: 'requests', fewestUsers: 1, mostUsers: 90 },
}

/** Three machines at REY that carry so much each; TAV has one with nobody. */
function underLoad(groups: Group[], carries: number) {
  const document: RunDocument = runDocument({
    journeys: [journey(), SLOW],
    plan: plan({ groups, placement: Object.fromEntries(groups.map(g => [g.letter, { REY: 10_000 }])) }),
    fleet: [
      { location: 'REY', type: TYPE, machines: 3, carries },
      { location: 'TAV', type: TYPE, machines: 1, carries },
    ],
  })
  const s = stageIn(folder, document)
  stores.push(s)
  for (const place of [1, 2]) {
    s.order('REY', place)
    s.connect(`REY-${place + 1}`, 0)
  }
  s.all('allocated', 'enrolled', 'rollCallPassed', 'loadStarted')
  for (const c of s.connections.values()) c.work = { state: 'loading', runId: '1' }
  s.run.stored.startAt = s.now()
  ;(s.run.stored as { state: string }).state = 'loading'
  loading(s.run, s.tools)
  const lose = (id: string) => {
    s.change(id, 'stoppedAnswering', 'made up')
    loading(s.run, s.tools)
    return s.runs.changes(1).findLast(c => c.event === 'generatorLost')!.reason
  }
  const taken = () =>
    s.said.flatMap(([id, m]) =>
      m.kind === 'takeOver' ? [[id, m] as [string, Extract<ToGenerator, { kind: 'takeOver' }>]] : [],
    )
  /** What each bears now, in users. */
  const borne = () => {
    const dealt = assignedLoadsOf(document, [[carries, carries, carries], [carries]]).flat()
    return s.run.generators.map((_, g) => {
      const { taken, isBare } = s.run.shifted.get(g) ?? { taken: [], isBare: false }
      return isBare ? 0 : taken.length + (dealt[g]?.pieces.length ?? 0)
    })
  }
  /** A process that has seen nothing takes the run up. */
  const takeUp = () => {
    s.run.parts = new Parts()
    s.run.shifted = s.runs.shifted(1)
    s.run.toldTaken = new WeakMap()
    loading(s.run, s.tools)
  }
  return { ...s, lose, taken, borne, takeUp }
}

describe('silence under load', () => {
  it('makes users unknown after 20 s, and moves nothing while the generator may still drive on', () => {
    const s = underLoad([LOOKERS], 100)
    s.heard.set('REY-2', s.now())
    const events = () => s.runs.changes(1).map(c => c.event)
    s.move(19_000)
    loading(s.run, s.tools)
    expect([s.run.parts.silent().size, events()]).toEqual([0, expect.not.arrayContaining(['generatorSilent'])])
    s.move(2000)
    loading(s.run, s.tools)
    loading(s.run, s.tools)
    expect([...s.run.parts.silent().keys()]).toEqual([s.run.generators.findIndex(g => g.name === 'REY-2')])
    expect(events().filter(e => e === 'generatorSilent')).toHaveLength(1)
    expect(s.runs.changes(1).find(c => c.event === 'generatorSilent')!.reason).toMatch(
      /REY-2 has said nothing since \+0 s.*It drives on by itself until \+62 s at most/,
    )
    // Nobody is told to take anything over: it would be there twice.
    expect([s.taken(), events().includes('generatorLost')]).toEqual([[], false])
    s.heard.set('REY-2', s.now())
    s.move(1000)
    loading(s.run, s.tools)
    expect([s.run.parts.silent().size, s.runs.changes(1).at(-1)!.reason]).toEqual([
      0,
      'REY-2 is heard again, after 21 s: it hands over what it measured meanwhile.',
    ])
  })

  it('of one that is lost is given to those who are heard, and one that was given up is sent away when it comes back', () => {
    const s = underLoad([LOOKERS], 100)
    s.heard.set('REY-3', s.now())
    s.move(21_000)
    loading(s.run, s.tools)
    expect(s.lose('REY-2')).toMatch(/go to REY-1\./)
    const sent = s.said.filter(([id, m]) => id === 'REY-2' && m.kind === 'drain')
    expect(sent).toHaveLength(1)
  })
})

/** All that each was told to take over, sorted. */
const pieces = (s: ReturnType<typeof underLoad>) =>
  [
    ...new Set(
      s
        .taken()
        .flatMap(([id, m]) =>
          m.lost.flatMap(p => [
            ...p.users.map(u => `${id} ${p.generator}/u${u}`),
            ...p.passes.flatMap(x => x.slots.map(slot => `${id} ${p.generator}/p${slot}`)),
          ]),
        ),
    ),
  ].sort()

describe('a lost generator', () => {
  it('leaves passes to the others as it leaves users: of each as much as there is room, none past what they carry', () => {
    // 10 users and 7 users’ worth of passes each (21 in all); the others have room for 5 each.
    const { lose, taken, borne } = underLoad([LOOKERS, COMERS], 22)
    const said = lose('REY-1')
    expect(said).toContain(
      '10 of its 17 users’ worth of load go to REY-2, REY-3; 7 are shed: the others would be past what they carry.',
    )
    const parts = taken().map(([, m]) => m.lost)
    const users = parts.reduce((sum, [p]) => sum + p!.users.length, 0)
    const slots = parts.flatMap(([p]) => p!.passes.flatMap(x => x.slots))
    expect(users + slots.length).toBe(10)
    // Neither is shed before the other: 10 of 17 of both.
    expect([users, slots.length, new Set(slots).size]).toEqual([6, 4, 4])
    expect(parts.every(([p]) => p!.passes.every(x => x.of === 7))).toBe(true)
    expect(borne().slice(0, 3)).toEqual([0, 22, 22])
  })

  it('counts for others what those bear of everything, also of held rates', () => {
    // 10 users each, and 14 more that the rate is expected to need: 24 of 24.
    const { lose, taken } = underLoad([LOOKERS, RATED], 24)
    expect(lose('REY-1')).toContain(
      'None of its 10 users go elsewhere; 10 are shed: the others would be past what they carry. Its part of held rates is asked of all others.',
    )
    expect(taken()).toEqual([])
  })

  it('and then the one that took over: what both bore is where room is, or shed, and nothing is there twice', () => {
    const { lose, taken, borne } = underLoad([LOOKERS, COMERS], 40)
    expect(lose('REY-1')).toContain('17 of its 17 users’ worth of load go to REY-2, REY-3.')
    const before = borne()
    const second = lose('REY-2')
    const [, moved, of] = /(\d+) of its (\d+) users’ worth/.exec(second)!.map(Number)
    expect([of, borne()[2]]).toEqual([before[1], 40])
    expect(moved).toBe(40 - before[2]!)
    // It is told all of it each time.
    const all = taken()
      .filter(([id]) => id === 'REY-3')
      .slice(-1)
      .flatMap(([, m]) =>
        m.lost.flatMap(p => [
          ...p.users.map(u => `${p.generator}/u${u}`),
          ...p.passes.flatMap(x => x.slots.map(slot => `${p.generator}/p${slot}`)),
        ]),
      )
    expect(new Set(all).size).toBe(all.length)
  })

  it('is remembered by who takes the run up: nobody bears anything else, and the next loss finds as much room as there is', () => {
    const losses = (restart: boolean) => {
      const s = underLoad([LOOKERS, COMERS], 40)
      s.lose('REY-1')
      const [before, told] = [s.borne(), pieces(s)]
      if (restart) s.takeUp()
      expect(s.borne()).toEqual(before)
      // Told once more, for the last time may not have been heard: the same.
      expect(pieces(s)).toEqual(told)
      s.move(5000)
      return [s.lose('REY-2').replace(/.*made up\. /, ''), s.borne()]
    }
    expect(losses(true)).toEqual(losses(false))
  })
})

describe('a generator whose machine is taken back', () => {
  /** The provider takes it back in that many milliseconds; then the run is looked at. */
  const notice = (s: ReturnType<typeof underLoad>, id: string, inMs: number) => {
    s.tools.machines.setReclaim(id, s.now() + inMs)
    loading(s.run, s.tools)
  }
  const drained = (s: ReturnType<typeof underLoad>) => s.said.filter(([, m]) => m.kind === 'drain').map(([id]) => id)
  const told = (s: ReturnType<typeof underLoad>) =>
    s.runs
      .changes(1)
      .filter(c => c.event === 'usersMoved')
      .map(c => c.reason)
  it('hands over what it bore eight seconds before, once; when it is gone nobody is moved twice', () => {
    const s = underLoad([LOOKERS, COMERS], 40)
    notice(s, 'REY-1', 20_000)
    expect([drained(s), told(s)]).toEqual([[], []])
    s.move(12_000)
    for (const _ of [1, 2]) loading(s.run, s.tools)
    expect(drained(s)).toEqual(['REY-1'])
    expect(told(s)).toEqual(['REY-1 is taken back: 17 of its 17 users’ worth of load go to REY-2, REY-3.'])
    const moved = s.taken().length
    s.move(8000)
    expect(s.lose('REY-1')).toContain('What it bore had been handed over.')
    expect(s.taken()).toHaveLength(moved)
  })

  it('hands over to nobody who is leaving too', () => {
    const s = underLoad([LOOKERS, COMERS], 60)
    notice(s, 'REY-1', 5000)
    notice(s, 'REY-2', 7000)
    // 17 of each: all are with the third now.
    expect(told(s)[1]).toMatch(/^REY-2 is taken back: (\d+) of its \1 users’ worth of load go to REY-3\.$/)
    expect(s.borne().slice(0, 3)).toEqual([0, 0, 51])
  })

  it('does so under a process that was not there at the notice, and under the next has done so already', () => {
    const shares = (restarts: boolean) => {
      const s = underLoad([LOOKERS, COMERS], 40)
      s.tools.machines.setReclaim('REY-1', s.now() + 10_000)
      if (restarts) s.takeUp()
      s.move(3000)
      loading(s.run, s.tools)
      const before = [s.borne(), pieces(s), told(s)]
      if (restarts) s.takeUp()
      expect([s.borne(), pieces(s), told(s)]).toEqual(before)
      s.move(7000)
      s.lose('REY-1')
      if (restarts) s.takeUp()
      expect([s.borne(), pieces(s), told(s)]).toEqual(before)
      s.lose('REY-2')
      return s.borne()
    }
    expect(shares(true)).toEqual(shares(false))
  })

  it('holds back rates that the others would not carry without it', () => {
    const s = underLoad([RATED], 16)
    notice(s, 'REY-1', 5000)
    expect(told(s)).toEqual([
      'REY-1 is taken back: Its part of held rates is asked of all others. Askers: no more than 15.2 requests/s from now on; more would push the others past what they carry.',
    ])
    expect(s.lose('REY-1')).not.toContain('no more than')
  })
})

describe('one that takes over while its link is down', () => {
  it('is told when it is back, of all it has taken since', () => {
    const s = underLoad([LOOKERS, COMERS], 40)
    const link = s.connections.get('REY-3')!
    s.connections.delete('REY-3')
    s.lose('REY-1')
    expect(s.taken().map(([id]) => id)).toEqual(['REY-2'])
    s.connect('REY-3', 0)
    // Not before it says that it is loading: it would not know what is meant.
    loading(s.run, s.tools)
    expect(s.taken()).toHaveLength(1)
    s.connections.get('REY-3')!.work = link.work
    for (const _ of [1, 2]) loading(s.run, s.tools)
    expect(s.taken().map(([id]) => id)).toEqual(['REY-2', 'REY-3'])
    expect(pieces(s)).toHaveLength(17)
  })

  it('and is taken back itself, leaves when it is back', () => {
    const s = underLoad([LOOKERS], 40)
    const link = s.connections.get('REY-1')!
    s.connections.delete('REY-1')
    s.tools.machines.setReclaim('REY-1', s.now() + 5000)
    loading(s.run, s.tools)
    s.connections.set('REY-1', link)
    for (const _ of [1, 2]) loading(s.run, s.tools)
    expect(s.said.filter(([, m]) => m.kind === 'drain').map(([id]) => id)).toEqual(['REY-1'])
  })
})

describe('held rates', () => {
  const rateNow = (s: ReturnType<typeof underLoad>) => s.run.steering.step(2)

  it('are left alone while those who are left carry them', () => {
    // 42 users are expected for the rate, 14 each; two of 22 carry 21 each.
    const s = underLoad([RATED], 22)
    expect(s.lose('REY-1')).toMatch(/Its part of held rates is asked of all others\. Its account/)
    expect(rateNow(s)).toEqual([{ group: 0, betweenS: 2.1, mostRate: 20 }])
  })

  it('are held lower where they would push the others too far, and that is said', () => {
    // Two of 16 carry 32 of 42 users: 15.2 of 20 requests a second.
    const s = underLoad([RATED], 16)
    expect(s.lose('REY-1')).toContain(
      'Askers: no more than 15.2 requests/s from now on; more would push the others past what they carry.',
    )
    expect(rateNow(s)).toEqual([{ group: 0, betweenS: 2.1, mostRate: expect.closeTo(15.2, 1) }])
    // The second loss holds them lower still, and a look without a loss changes nothing.
    expect(limitRates(s.run)).toBeUndefined()
    expect(s.lose('REY-2')).toContain('no more than 7.6 requests/s')
  })

  it('that were too much from the beginning are not lowered below what each had', () => {
    const s = underLoad([RATED], 5)
    expect(s.lose('REY-1')).toContain('no more than 13.3 requests/s')
  })
})
