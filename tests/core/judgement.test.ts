/** Objectives, settled holds, soundness: the rules by which a run answers and is believed. */
import { figuresOf, NO_FIGURES, type Figures } from '../../core/merge/figures'
import { SeriesSum } from '../../core/merge/series-sum'
import { NO_CLAIMS, type Ledger } from '../../core/merge/ledger'
import { judge, sayValue } from '../../core/objectives/judge'
import { nameOf } from '../../core/objectives/sentence'
import { answerSoFar } from '../../core/objectives/so-far'
import type { Evidence } from '../../core/objectives/evidence'
import type { LoadThere } from '../../core/objectives/load-there'
import { levelsOf, settledLevels, type JudgedLevel } from '../../core/objectives/windows'
import { reasonsSoFar, type SeenSoFar } from '../../core/soundness/so-far'
import { findingsOf, soundnessOf, stoodStillIn, type RunEvidence } from '../../core/soundness/verdict'
import { NO_HEALTH, worstSignal, type Health } from '../../core/capacity/signals'
import { ceilingOf } from '../../core/fleet/ceiling'
import { costOf, priceOf } from '../../core/offers/cost'
import type { Objective } from '../../core/plan/document'
import { hill, plan, runDocument } from '../build/plans'

const answered = (ms: number, times: number, failed = 0) => {
  const sum = new SeriesSum()
  sum.right = times
  sum.timings.right.record(ms * 1000, times)
  sum.failures[5] = failed
  return figuresOf(sum)
}
const AS_PLANNED: LoadThere = { asked: true, shortfalls: [], users: undefined }
/** Evidence of figures alone: the load was there. */
const seen = (figures: Figures, over: Partial<Evidence> = {}): Evidence => ({ figures, load: AS_PLANNED, ...over })
const users = (there: number, asked: number, shortS = 30): LoadThere => ({
  asked: true,
  shortfalls: [{ kind: 'users', there, asked, shortS, ofS: 30 }],
  users: there,
})
const stairs = plan({
  groups: [
    {
      letter: 'A',
      name: 'A',
      journeyId: 'look',
      profile: {
        startDelayMs: 0,
        segments: [
          { to: 100, overMs: 10_000 },
          { to: 100, overMs: 60_000 },
          { to: 200, overMs: 10_000 },
          { to: 200, overMs: 60_000 },
        ],
      },
    },
  ],
})

describe('levels', () => {
  it('are the holds of all groups together, judged after the longer of 30 s and 3 passes', () => {
    expect(levelsOf(stairs)).toEqual([
      { fromS: 10, toS: 70, users: 100 },
      { fromS: 80, toS: 140, users: 200 },
    ])
    expect(settledLevels(stairs, 5000)).toEqual([
      { fromS: 40, toS: 70, users: 100 },
      { fromS: 110, toS: 140, users: 200 },
    ])
    expect(settledLevels(stairs, 15_000)[0]).toEqual({ fromS: 55, toS: 70, users: 100 })
  })

  it('leave out a hold while another group still climbs, and warm-up', () => {
    const two = plan({
      groups: [
        { letter: 'A', name: 'A', journeyId: 'look', profile: hill(10, 5, 60, 5) },
        { letter: 'B', name: 'B', journeyId: 'look', profile: hill(10, 40, 25, 5) },
      ],
    })
    expect(levelsOf(two)).toEqual([{ fromS: 40, toS: 65, users: 20 }])
    const warm = plan({
      groups: [
        {
          letter: 'A',
          name: 'A',
          journeyId: 'look',
          profile: {
            startDelayMs: 0,
            segments: [
              { to: 5, overMs: 0, warmUp: true },
              { to: 5, overMs: 20_000, warmUp: true },
              { to: 5, overMs: 40_000 },
            ],
          },
        },
      ],
    })
    expect(levelsOf(warm)).toEqual([{ fromS: 20, toS: 60, users: 5 }])
  })
})

describe('answers', () => {
  const levels = settledLevels(stairs, 5000)
  const p95 = [{ metric: 'p95' as const, step: 'Ask', atMost: 1000 }]

  it('say yes with the tightest figure at the highest level', () => {
    expect(
      judge({ objectives: p95, levels, settled: true, evidenceFor: () => seen(answered(400, 100)) }),
    ).toMatchObject({ verdict: 'held', heldUpTo: 200, sentence: 'Yes: p95 of Ask 400 ms at 200 users.' })
  })

  it('say no with the level it broke at and the one it held up to', () => {
    expect(
      judge({
        objectives: p95,
        levels,
        settled: true,
        evidenceFor: l => seen(answered(l.users === 200 ? 2400 : 300, 100)),
      }).sentence,
    ).toBe('No: p95 of Ask 2.40 s at 200 users. Held up to 100 users.')
  })

  it('say with a no which generators stood still in the very window it broke in', () => {
    const no = (names: readonly string[]) =>
      judge({
        objectives: p95,
        levels,
        settled: true,
        evidenceFor: l => seen(answered(l.users === 200 ? 2400 : 300, 100)),
        stoodStillIn: ({ fromS }) => (fromS === levels[1]!.fromS ? names : ['of-another-window']),
      }).sentence
    expect(no([])).toBe('No: p95 of Ask 2.40 s at 200 users. Held up to 100 users.')
    expect(no(['REY-1'])).toBe('No: p95 of Ask 2.40 s at 200 users, while REY-1 stood still for a while. Held up to 100 users.')
    expect(no(['REY-1', 'REY-2', 'TIR-1'])).toContain(', while 3 generators stood still for a while. Held')
  })

  it('count what was not measured as not held', () => {
    expect(judge({ objectives: p95, levels, settled: true, evidenceFor: () => seen(NO_FIGURES) })).toMatchObject({
      verdict: 'broken',
      sentence: 'No: p95 of Ask was not measured at 100 users.',
    })
  })

  it('give none when nothing was asked', () => {
    expect(judge({ objectives: [], levels, settled: true, evidenceFor: () => seen(answered(1, 1)) }).verdict).toBe(
      'none',
    )
  })

  it('as they stand are of what was sent in these seconds, and never of something else in its place', () => {
    const p = (over: Partial<Objective>): Objective => ({ metric: 'p95', atMost: 1000, ...over })
    const [ask, late, broken, stuck] = [
      p({ step: 'Ask' }),
      p({ step: 'Late' }),
      p({ step: 'Broken' }),
      p({ step: 'Stuck' }),
    ]
    const of = new Map<Objective, Evidence>([
      [ask, seen(answered(300, 100))],
      [late, seen(NO_FIGURES)],
      [broken, seen(answered(1, 0, 7))],
      [stuck, seen(answered(9000, 2), { waitedMs: 9000 })],
    ])
    const say = (...objectives: Objective[]) =>
      answerSoFar(
        objectives,
        {
          fromS: 10,
          toS: 20,
          load: AS_PLANNED,
          objectives: objectives.map(o => of.get(o) ?? seen(answered(300, 100))),
        },
        100,
        [],
      )?.sentence
    expect(say(ask)).toBe('Yes: p95 of Ask 300 ms at 100 users.')
    expect(NO_FIGURES).toEqual(figuresOf(new SeriesSum()))
    // Nothing of it yet: no word of it, and none of the rest in its stead.
    expect([say(late), say(p({ step: 'Ask', window: 'whole' })), say()]).toEqual([undefined, undefined, undefined])
    expect(say(late, ask)).toBe('Yes: p95 of Ask 300 ms at 100 users.')
    // Sent, and never right; or waited for past the limit: that is no yes.
    expect(say(broken, ask)).toBe('No: p95 of Broken was not measured at 100 users.')
    expect(say(stuck)).toBe('No: p95 of Stuck at least 9.00 s (some had waited 9 s for an answer) at 100 users.')
  })

  it('claim no more than the load that was there: no plain yes where users were missing', () => {
    const [low, high] = levels as [JudgedLevel, JudgedLevel]
    const ask = (missing: (l: JudgedLevel) => LoadThere, objectives: Objective[] = p95) =>
      judge({
        objectives,
        levels,
        settled: true,
        evidenceFor: l => seen(answered(400, 100), { load: missing(l) }),
        loadIn: w => missing(w as JudgedLevel),
      })
    expect(ask(l => (l.users === 200 ? users(60, 200) : AS_PLANNED))).toMatchObject({
      verdict: 'short',
      heldUpTo: 100,
      sentence: 'Held at 60 of 200 users only: p95 of Ask 400 ms.',
    })
    expect(ask(l => (l.users === 200 ? users(160, 200, 12) : AS_PLANNED))).toMatchObject({
      verdict: 'short',
      heldUpTo: 160,
      sentence: 'Held at 160 of 200 users for 12 of 30 s only: p95 of Ask 400 ms.',
    })
    expect(ask(l => (l === low ? users(40, 100) : AS_PLANNED))).toMatchObject({
      verdict: 'short',
      heldUpTo: 200,
      sentence: 'Yes: p95 of Ask 400 ms at 200 users. Below, it was at 40 of 100 users only.',
    })
    expect(
      judge({
        objectives: p95,
        levels,
        settled: true,
        evidenceFor: l => seen(answered(2400, 100), { load: l === high ? AS_PLANNED : users(9, 100) }),
      }).sentence,
    ).toBe('No: p95 of Ask 2.40 s at 9 of 100 users.')
    const rate: LoadThere = {
      asked: true,
      users: undefined,
      shortfalls: [{ kind: 'arrivals', asked: 12, there: 9.13 }],
    }
    expect(ask(() => rate)).toMatchObject({
      verdict: 'short',
      heldUpTo: 152,
      sentence: 'Held at 9.13 of 12 arrivals/s only: p95 of Ask 400 ms.',
    })
  })

  it('judge users held by who was present, and a floor of a rate by what came back', () => {
    const held = (there: number) =>
      judge({
        objectives: [{ metric: 'users', atLeast: 200 }],
        levels: levels.slice(1),
        settled: true,
        evidenceFor: () =>
          seen(answered(400, 100), { load: there < 200 ? users(there, 200) : { ...AS_PLANNED, users: there } }),
      })
    expect(held(200)).toMatchObject({ verdict: 'held', sentence: 'Yes: users held 200 users at 200 users.' })
    expect(held(60)).toMatchObject({ verdict: 'broken', sentence: 'No: users held 60 users at 60 of 200 users.' })
    const floor = (load: LoadThere) =>
      judge({
        objectives: [{ metric: 'throughput', atLeast: 5 }],
        levels: levels.slice(1),
        settled: true,
        evidenceFor: () => seen(NO_FIGURES, { load }),
      })
    // Users wait, and nothing comes back: that is no rate at all, and not an unknown one.
    expect(floor(AS_PLANNED).sentence).toBe('No: throughput 0/s at 200 users.')
    expect(floor({ ...AS_PLANNED, asked: false }).sentence).toBe('No: throughput was not measured at 200 users.')
  })

  it('of a run that was stopped say so, whatever they say else', () => {
    const ended = { how: 'stopped' as const, afterS: 80, ofS: 600 }
    const of = (ms: number) =>
      judge({
        objectives: p95,
        levels: levels.slice(0, 1),
        settled: true,
        ended,
        evidenceFor: () => seen(answered(ms, 100)),
      })
    expect(of(400)).toMatchObject({
      verdict: 'short',
      sentence: 'Stopped after 1 min 20 s of 10 min. Held until then: p95 of Ask 400 ms at 100 users.',
    })
    expect(of(2400)).toMatchObject({
      verdict: 'broken',
      sentence: 'Stopped after 1 min 20 s of 10 min. No: p95 of Ask 2.40 s at 100 users.',
    })
    expect(
      judge({
        objectives: p95,
        levels: [],
        settled: true,
        ended: { ...ended, how: 'aborted' },
        evidenceFor: () => seen(NO_FIGURES),
      }).sentence,
    ).toBe('Aborted after 1 min 20 s of 10 min. No answer: nothing was measured.')
  })

  it('hold failures against their share', () => {
    const failures = [{ metric: 'failures' as const, atMost: 0.005 }]
    expect(
      judge({
        objectives: failures,
        levels: levels.slice(0, 1),
        settled: true,
        evidenceFor: () => seen(answered(5, 995, 5)),
      }).verdict,
    ).toBe('held')
    expect(
      judge({
        objectives: failures,
        levels: levels.slice(0, 1),
        settled: true,
        evidenceFor: () => seen(answered(5, 990, 10)),
      }).sentence,
    ).toBe('No: failures 1 % at 100 users.')
    expect(nameOf({ metric: 'p99', location: 'OSA', atMost: 1 }, [])).toBe('p99 from OSA')
    expect(
      nameOf({ metric: 'p99', step: 'Whole round', journeyId: 'look', group: 'B', atMost: 1 }, [
        { id: 'look', name: 'Look around' },
      ]),
    ).toBe('p99 of Whole round on Look around by B')
    expect(sayValue({ metric: 'p99', atMost: 1 }, 12.34)).toBe('12.3 ms')
  })
})

describe('soundness', () => {
  const well: Health = {
    ...NO_HEALTH,
    cpuShare: 0.2,
    loopDelayP99Ms: 1,
    scheduleLagP99Ms: 1,
    memoryShare: 0.1,
    socketShare: 0.1,
  }
  const ledger: Ledger = {
    accounts: [],
    claimed: { ...NO_CLAIMS, started: 10_000 },
    merged: { ...NO_CLAIMS, started: 10_000 },
    missing: 0,
    atMostUnknown: 0,
    sent: 10_000,
    balanced: true,
  }
  const evidence = (over: Partial<RunEvidence> = {}): RunEvidence => ({
    health: new Map([['REY-1', Array.from({ length: 20 }, () => well)]]),
    planned: new Array(20).fill(100),
    present: new Array(20).fill(100),
    ledger,
    clockUncertaintyMs: new Map(),
    lost: [],
    capacityBasis: 'calibrated',
    rehearsed: true,
    failureShare: 0,
    ...over,
  })
  const codes = (e: RunEvidence) => findingsOf(e).map(f => f.code)
  const verdict = (e: RunEvidence) => soundnessOf(findingsOf(e))

  it('is sound when nothing speaks against it', () => {
    expect(findingsOf(evidence())).toEqual([])
    expect(verdict(evidence())).toBe('sound')
  })

  it('qualifies a generator over a limit for 5 s in a row, not for 4', () => {
    const stressed = (n: number) =>
      evidence({
        health: new Map([['REY-1', Array.from({ length: 20 }, (_, i) => (i < n ? { ...well, cpuShare: 0.9 } : well))]]),
      })
    expect(codes(stressed(4))).toEqual([])
    expect(findingsOf(stressed(7))[0]).toMatchObject({
      code: 'generator-stressed',
      seconds: 7,
      generators: ['REY-1'],
      weight: 'qualifies',
    })
    expect(worstSignal({ ...well, socketShare: 0.9 }).signal).toBe('socketShare')
  })

  it('says that a generator stood still, though for a single second, and that what was due meanwhile went out at once', () => {
    const still = Array.from({ length: 20 }, (_, i) => (i === 12 ? { ...well, scheduleLagP99Ms: 9800 } : well))
    expect(findingsOf(evidence({ health: new Map([['REY-1', still]]) }))).toMatchObject([
      {
        code: 'stood-still',
        weight: 'qualifies',
        generators: ['REY-1'],
        sentence: 'REY-1 stood still for 9.8 s until second 12: what was due meanwhile it did late, all at once.',
      },
    ])
    // From 2.2 to 12: in a window as far as it reaches into it.
    const reaches = (fromS: number, toS: number) => stoodStillIn(new Map([['REY-1', still], ['REY-2', []]]), { fromS, toS })
    expect([reaches(0, 2), reaches(0, 3), reaches(5, 8), reaches(12, 14), reaches(13, 20)]).toEqual([
      [],
      ['REY-1'],
      ['REY-1'],
      ['REY-1'],
      [],
    ])
    // 12 passes a second are due; one more or less falls beside its second everywhere.
    const due = new Array<number>(20).fill(12)
    const begun = due.map((n, s) => (s >= 8 && s < 12 ? 0 : s === 12 ? 60 : n + (s % 2)))
    expect(findingsOf(evidence({ pace: { due, begun } }))).toMatchObject([
      { code: 'burst', weight: 'qualifies', seconds: 1, sentence: '60 passes began in second 12, where 12 were due.' },
    ])
    expect(codes(evidence({ pace: { due, begun: due.map((n, s) => n + (s % 4)) } }))).toEqual([])
  })

  it('as it stands while a run loads says what the verdict will weigh: the same rules on what is seen so far', () => {
    const sizedBy = (basis: 'calibrated' | 'byHand' | 'assumed' | 'stale') =>
      runDocument({ sizedBy: [{ location: 'REY', basis, capacities: [] }] })
    const soFar = (over: Partial<SeenSoFar> = {}): SeenSoFar => ({
      document: sizedBy('calibrated'),
      lost: [],
      absent: [],
      stressed: [],
      planned: new Array(20).fill(100),
      present: new Array(20).fill(100),
      passes: 1000,
      notStarted: 0,
      notReached: false,
      ...over,
    })
    expect(reasonsSoFar(soFar())).toEqual([])
    // Set by hand is a note in the verdict, and no reason here; runs of earlier releases assumed.
    for (const basis of ['calibrated', 'byHand', 'assumed', 'stale'] as const) {
      const qualified = verdict(evidence({ capacityBasis: basis })) === 'qualified'
      expect(reasonsSoFar(soFar({ document: sizedBy(basis) })).length > 0).toBe(qualified)
    }
    expect(reasonsSoFar(soFar({ document: runDocument() }))).toEqual(['capacity assumed'])
    // Only as many seconds as have been.
    expect(reasonsSoFar(soFar({ present: [100, 100] }))).toEqual([])
    expect(reasonsSoFar(soFar({ present: new Array(20).fill(90) }))).toEqual(['users off plan for 20 s'])
    expect([reasonsSoFar(soFar({ notStarted: 10 })), reasonsSoFar(soFar({ notStarted: 11 }))]).toEqual([
      [],
      ['11 passes not started'],
    ])
    expect(
      reasonsSoFar(
        soFar({
          lost: ['REY-1'],
          absent: ['REY-2'],
          stressed: ['TAV-1'],
          notReached: true,
          document: runDocument({ plan: plan({ rehearse: false }) }),
        }),
      ),
    ).toEqual([
      'REY-1 lost',
      'REY-2 stayed away',
      'TAV-1 stressed',
      'rate not reached',
      'capacity assumed',
      'not rehearsed',
    ])
  })

  it('tells apart what neighbours took: it is no generator’s own stress, and larger machines are no remedy', () => {
    const robbed = (n: number, name = 'REY-1'): [string, Health[]] => [
      name,
      Array.from({ length: 20 }, (_, i) => (i % 2 === 0 && i < 2 * n ? { ...well, stolenShare: 0.14 } : well)),
    ]
    expect(codes(evidence({ health: new Map([robbed(4)]) }))).toEqual([])
    expect(findingsOf(evidence({ health: new Map([robbed(5), robbed(8, 'REY-2')]) }))).toMatchObject([
      {
        code: 'cpu-stolen',
        weight: 'qualifies',
        generators: ['REY-1', 'REY-2'],
        seconds: 8,
        sentence:
          'Neighbours took more than 5.0 % of the CPU of REY-1, REY-2 for up to 8 s: what was measured there then is delayed.',
      },
    ])
  })

  it('qualifies users off plan by more than 2 % and more than one for 5 s', () => {
    expect(codes(evidence({ present: new Array(20).fill(98) }))).toEqual([])
    expect(codes(evidence({ present: new Array(20).fill(97) }))).toEqual(['users-off'])
    expect(codes(evidence({ planned: new Array(20).fill(10), present: new Array(20).fill(9) }))).toEqual([])
  })

  it('notes and then qualifies a clock that is not known', () => {
    expect(verdict(evidence({ clockUncertaintyMs: new Map([['a', 150]]) }))).toBe('sound')
    expect(verdict(evidence({ clockUncertaintyMs: new Map([['a', 400]]) }))).toBe('qualified')
  })

  it('weighs a declared loss by its share, and any contradiction voids', () => {
    const lossOf = (n: number) => evidence({ ledger: { ...ledger, atMostUnknown: n } })
    expect(verdict(lossOf(5))).toBe('sound')
    expect(verdict(lossOf(100))).toBe('qualified')
    expect(verdict(lossOf(1000))).toBe('unsound')
    const contradicting = {
      ...ledger,
      accounts: [
        {
          generator: 'x',
          claimed: NO_CLAIMS,
          merged: NO_CLAIMS,
          inFlight: 0,
          frames: { received: 0, repeated: 0, absent: 0 },
          missing: 0,
          contradictions: ['y'],
        },
      ],
    }
    expect(verdict(evidence({ ledger: contradicting }))).toBe('unsound')
  })

  it('qualifies lost generators, assumed capacity and a skipped rehearsal; notes failures', () => {
    expect(
      codes(evidence({ lost: ['TAV-1'], capacityBasis: 'assumed', rehearsed: false, failureShare: 0.02 })),
    ).toEqual(['generator-lost', 'capacity-assumed', 'not-rehearsed', 'failures'])
  })
})

describe('cost and ceiling', () => {
  it('bills whole grains', () => {
    const type = { name: 't', vcpu: 1, memoryMb: 1, pricePerHour: 0.6, billingGrainS: 60 }
    expect(costOf(priceOf(type, {}), 61_000)).toBeCloseTo(0.02)
    expect(costOf(priceOf(type, {}), 0)).toBe(0)
  })

  it('bills a minimum, what runs beside, and the lower price of what may be taken back', () => {
    const type = {
      name: 't',
      vcpu: 1,
      memoryMb: 1,
      pricePerHour: 0.6,
      billingGrainS: 60,
      minimumS: 600,
      interruptiblePerHour: 0.2,
    }
    expect(costOf(priceOf(type, {}), 1000)).toBeCloseTo(0.1)
    expect(costOf(priceOf(type, { extrasPerHour: 0.06 }), 601_000)).toBeCloseTo((660 / 3600) * 0.66)
    expect(costOf(priceOf(type, { interruptible: true }), 3_600_000)).toBeCloseTo(0.2)
    expect(priceOf({ ...type, interruptiblePerHour: undefined } as never, { interruptible: true })).toMatchObject({
      perHour: 0.6,
      interruptible: false,
    })
  })

  it('is where the first location binds', () => {
    expect(
      ceilingOf(
        [
          { code: 'A', users: 60, carries: 90 },
          { code: 'B', users: 40, carries: 50 },
          { code: 'C', users: 0, carries: 0 },
        ],
        100,
      ),
    ).toEqual({ users: 125, code: 'B' })
    expect(ceilingOf([], 10)).toBeUndefined()
  })
})
