/**
 * Batches of calibrations: refused before a machine is asked for, led item by item, repeated once when broken off, read
 * into capacities; and those capacities over time.
 */
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { Calibrations } from '../../control/calibration/calibrations'
import { Capacities } from '../../control/library/capacities'
import type { CalibrationWish } from '../../core/capacity/batch'
import type { Cancel, Clock } from '../../control/clock'
import type { ControlError } from '../../control/errors'
import { FileRoom } from '../../control/library/files'
import { Library } from '../../control/library/library'
import { capacityStore } from '../../control/store/capacities'
import { libraryStore } from '../../control/store/library'
import { openStore } from '../../control/store/open'
import type { StoredRun } from '../../control/store/runs'
import { sealingWith } from '../../control/store/sealing'
import type { CalibrationEvidence } from '../../core/capacity/calibration'
import type { Estimate } from '../../core/capacity/estimate'
import type { ExchangeRecord } from '../../core/journey/exchange-record'
import { NOTHING_SAID } from '../../core/run/about'
import type { RunDocument } from '../../core/run/document'
import { until } from '../build/house'
import { ownFolder } from '../build/folder'
import { journey, offers, plan, target } from '../build/plans'

const root = ownFolder()
const closing: (() => void)[] = []
afterAll(() => closing.forEach(close => close()))
const NEVER: Cancel = {
  cancel() {
    /* nothing was set */
  },
}

/** A sink that listens nowhere; it ends with its input, or when it is told to by a request it never gets. */
const SINK = join(root, 'sink.mjs')
writeFileSync(
  SINK,
  'import { createInterface } from "node:readline"\ncreateInterface({ input: process.stdin }).once("line", () => console.log(JSON.stringify({ port: 4242 })))\nprocess.stdin.on("end", () => process.exit(0))\n',
)
const DEAD_SINK = join(root, 'dead-sink.mjs')
writeFileSync(
  DEAD_SINK,
  'process.stdin.once("data", () => { console.log(JSON.stringify({ port: 4242 })); setTimeout(() => process.exit(1), 20) })\n',
)

const RECORD: ExchangeRecord = {
  keptFor: 'oneInPasses' as never,
  group: '',
  journeyId: 'look',
  step: 'Look',
  user: 1,
  pass: 1,
  beganAtMs: 0,
  endedAtMs: 8,
  request: { method: 'GET', url: 'http://127.0.0.1:1/timetable', headers: [], body: '', bodyBytes: 0 },
  answer: { status: 200, headers: [], body: 'ok', bytes: 2, whole: true },
  hops: [],
  timings: { lookupMs: -1, connectMs: 1, tlsMs: -1, firstByteMs: 6, wholeMs: 8 },
  failure: undefined,
  problem: '',
  checks: [],
  captured: [],
}
const WISH: CalibrationWish = {
  journeys: ['look'],
  networks: ['direct'],
  provider: 'nimbral',
  region: 'reyk',
  types: ['brisk-1'],
  machines: 1,
  targetId: 'portal',
  sink: true,
}

/** Found by CPU at `users`, its interval 10 % to each side. */
function evidence(users: number, over: Partial<Estimate> = {}, perMachine = [users]): CalibrationEvidence {
  const estimate: Estimate = {
    outcome: 'measured',
    users,
    lower: users * 0.9,
    upper: users * 1.1,
    binds: 'cpuShare',
    signals: {
      cpuShare: {
        crossing: { users, lower: users * 0.9, upper: users * 1.1 },
        rises: true,
        base: 0.05,
        perUser: 0.7 / users,
        within: users * 0.9,
      } as never,
    },
    largest: users * 1.1,
    passRate: 2,
    failureShare: 0,
    ...over,
  }
  return { estimate, levels: [], perMachine, machine: { cores: 1, memoryBytes: 2 ** 31, descriptors: 65_536 } }
}

function desk({ sink = SINK, offered = offers(), record = RECORD, budget = 5 } = {}) {
  const store = openStore(join(root, `${closing.length}.db`))
  const tables = libraryStore(store)
  const library = new Library(
    tables,
    new FileRoom(join(root, `files-${closing.length}`), tables, () => 0),
    sealingWith(join(root, 'key')),
    { now: () => 5 } as Clock,
    () => [],
  )
  library.saveTarget(target())
  library.saveJourney(journey(), 0)
  library.saveJourney(
    {
      ...journey({ id: 'kit', name: 'A kit' }),
      kind: 'command',
      kit: 'x'.repeat(64),
      command: 'run',
      runtimes: [],
      steps: [],
    } as never,
    0,
  )
  let now = 1_000_000
  let tick = () => {
    /* set below */
  }
  const clock: Clock = { now: () => now, after: () => NEVER, every: (_, call) => ((tick = call), NEVER) }
  const capacityTables = capacityStore(store)
  const capacities = new Capacities({
    store: capacityTables,
    library,
    clock,
    remembered: () => offered,
    onChange() {
      /* nobody listens */
    },
  })
  const runs = new Map<number, StoredRun>()
  const stopped: [number, string][] = []
  const calibrations = new Calibrations({
    store: capacityTables,
    capacities,
    library,
    clock,
    sinkProgram: sink,
    offers: () => Promise.resolve(offered),
    trials: { here: () => Promise.resolve({ records: [record], problem: '' }) } as never,
    rails: () => ({
      rails: {
        mostMachines: 10,
        mostUsers: 5000,
        longestRunMin: 60,
        budgetPerRun: budget,
        budgetPerDay: budget,
        currency: 'EUR',
      },
      spentToday: 0,
    }),
    begin: (document: RunDocument) => {
      const id = runs.size + 1
      runs.set(id, {
        id,
        planId: '',
        state: 'loading',
        ending: 'settled',
        document,
        createdAt: now,
        startAt: now,
        endedAt: undefined,
        summary: undefined,
        rehearsed: false,
        unloaded: [],
        kept: false,
        isBaseline: false,
        exchangesClearedAt: undefined,
        clearedAt: undefined,
        foldedAt: undefined,
        about: NOTHING_SAID,
      })
      return id
    },
    run: id => runs.get(id),
    reasonOf: () => 'lacks 1 of 1 brisk-1',
    stopRun: (id, reason) => stopped.push([id, reason]),
    seen: () => undefined,
    size: () => Promise.resolve([]),
    onChange() {
      /* nobody listens */
    },
  })
  closing.push(() => {
    calibrations.stopAll()
    store.close()
  })
  /** The run of a number has ended. */
  const end = (id: number, state: StoredRun['state'], calibration?: CalibrationEvidence) => {
    runs.set(id, { ...runs.get(id)!, state, endedAt: now, summary: calibration && ({ calibration } as never) })
    tick()
  }
  const item = (id = 1) => calibrations.batch(id).items[0]!
  const begun = (runId: number) => until(() => Promise.resolve(runs.has(runId)), 5000, `run ${runId} to begin`)
  return {
    calibrations,
    capacities,
    library,
    runs,
    stopped,
    end,
    item,
    begun,
    tick: () => tick(),
    move: (ms: number) => {
      now += ms
    },
  }
}
const refusal = (promise: Promise<unknown>) =>
  promise.then(
    () => {
      throw new Error('it was not refused')
    },
    (error: ControlError) => [error.code, error.message, error.remedy],
  )

describe('a wish', () => {
  it('that cannot be fulfilled is refused with what to do, before anything is asked for', async () => {
    const { calibrations, runs } = desk()
    expect(await refusal(calibrations.begin({ ...WISH, journeys: [] }))).toEqual([
      'nothing-chosen',
      'Nothing is chosen to calibrate.',
      'Choose at least one journey, one machine type and one network.',
    ])
    expect(await refusal(calibrations.begin({ ...WISH, targetId: 'nowhere' }))).toEqual([
      'not-found',
      'There is no target nowhere.',
      'Go back to the list and choose another.',
    ])
    expect(await refusal(calibrations.begin({ ...WISH, region: 'atlantis' }))).toMatchObject([
      'unknown-region',
      expect.stringContaining('no region atlantis'),
      'Start the provider, or choose another region.',
    ])
    expect(await refusal(calibrations.begin({ ...WISH, types: ['huge-96'] }))).toEqual([
      'unknown-type',
      'reyk has no machine type huge-96.',
      'Choose one of brisk-1.',
    ])
    expect(await refusal(calibrations.begin({ ...WISH, machines: 6 }))).toEqual([
      'quota',
      '6 machines are wanted; 5 of 5 are free in reyk.',
      'Choose another region, or release machines there.',
    ])
    expect(await refusal(calibrations.begin({ ...WISH, journeys: ['kit'] }))).toMatchObject([
      'command',
      expect.stringContaining('A kit runs a program of its own'),
      'Set its capacity by hand.',
    ])
    expect(
      await refusal(desk({ offered: offers({ quota: { most: 0, used: 0 } }) }).calibrations.begin(WISH)),
    ).toMatchObject(['quota', 'The quota of reyk is 0: no machine can be taken there.', expect.any(String)])
    expect(await refusal(desk({ offered: offers({ noStock: ['brisk-1'] }) }).calibrations.begin(WISH))).toMatchObject([
      'no-stock',
      'reyk is out of brisk-1 at the moment.',
      'Choose another region or type, or wait.',
    ])
    expect(await refusal(desk({ budget: 0.001 }).calibrations.begin(WISH))).toMatchObject([
      'budget',
      expect.stringContaining('€0.00 may be spent'),
      expect.any(String),
    ])
    expect(
      await refusal(
        desk({ record: { ...RECORD, failure: 'status', problem: 'status 500, 200 was expected' } }).calibrations.begin(
          WISH,
        ),
      ),
    ).toEqual([
      'try-failed',
      'Look around fails its try: Look: status 500, 200 was expected.',
      'Open the journey, try it, fix what fails; then calibrate.',
    ])
    expect(runs.size).toBe(0)
  })
})

describe('a batch', () => {
  it('goes through its items one after the other, against the sink, and keeps what each found', async () => {
    const { calibrations, capacities, runs, end, begun, item, tick } = desk({
      offered: offers({
        types: [
          { name: 'brisk-1', vcpu: 1, memoryMb: 2048, pricePerHour: 0.06, billingGrainS: 60 },
          { name: 'brisk-2', vcpu: 2, memoryMb: 4096, pricePerHour: 0.11, billingGrainS: 60 },
        ],
      }),
    })
    const id = await calibrations.begin({ ...WISH, types: ['brisk-1', 'brisk-2'] })
    await begun(1)
    expect(runs.get(1)!.document).toMatchObject({
      target: { baseUrl: 'http://127.0.0.1:4242', approval: { hosts: ['127.0.0.1:4242'] } },
      fleet: [{ type: { name: 'brisk-1' }, machines: 1 }],
      calibration: { batch: id, item: 0, kind: 'steps', sink: true },
    })
    tick()
    expect(runs.size).toBe(1)
    end(1, 'settled', evidence(400))
    tick()
    await begun(2)
    end(2, 'settled', evidence(790))
    expect(calibrations.batch(id)).toMatchObject({ items: [{ state: 'done' }, { state: 'done' }], endedAt: 1_000_000 })
    const [first] = capacities.all().filter(c => c.machineType === 'brisk-1')
    // 20 % headroom from the lower bound: 360 × 0.8. 2 passes/s of 2 requests: CPU per pass = 0.7 ÷ 400 ÷ 2 of a core.
    expect(capacities.line(first!)).toMatchObject({
      recommended: 288,
      stale: [],
      usersPerMoneyHour: 288 / 0.06,
      capacity: { users: 400, lower: 360, binds: 'cpuShare', target: 'built-in sink', runId: 1, requestsPerPass: 2 },
    })
    expect(first!.costs.cpuUsPerPass).toBeCloseTo(875, 6)
    expect(item(id).capacityId).toBe(first!.id)
    expect(capacities.view(first!.id)).toMatchObject({
      history: [{ capacity: { users: 400 } }],
      evidence: { estimate: { users: 400 } },
    })
    expect(capacities.view(first!.id).comparison).toHaveLength(2)
  })

  it('of siblings recommends what the slowest carries, and says how far apart they were', async () => {
    const { calibrations, capacities, end, begun } = desk()
    await calibrations.begin({ ...WISH, machines: 3 })
    await begun(1)
    end(1, 'settled', evidence(400, {}, [400, 420, 324]))
    const [capacity] = capacities.all()
    // 324 is a tenth below the lower bound of 360; standard deviation of 400, 420, 324: √(5130.7 ÷ 2) = 50.65, of their
    // mean 381.33.
    expect(capacity!.lower).toBeCloseTo(324, 9)
    expect(capacity!.signals.cpuShare!.lower).toBeCloseTo(324, 9)
    expect(capacity!.spread).toBeCloseTo(0.13282, 4)
  })

  it('that found nothing sure keeps the outcome and the next step, and sizes nothing', async () => {
    const { calibrations, capacities, end, begun, item } = desk()
    await calibrations.begin(WISH)
    await begun(1)
    end(
      1,
      'settled',
      evidence(0, {
        outcome: 'inconclusive',
        why: 'target',
        lower: 0,
        upper: 0,
        binds: undefined,
        signals: {},
      } as never),
    )
    expect(item()).toMatchObject({ state: 'done' })
    expect(item().problem).toMatch(/target/i)
    expect(capacities.line(capacities.all()[0]!).recommended).toBe(0)
  })

  it('says of a figure when seconds counted in which neighbours took more than usual', async () => {
    const { calibrations, capacities, end, begun, runs } = desk()
    for (const [n, mostStolenShare] of ([undefined, 0.05, 1] as const).entries()) {
      await calibrations.begin({ ...WISH, mostStolenShare })
      await begun(n + 1)
      expect(runs.get(n + 1)!.document.calibration!.mostStolenShare).toBe(mostStolenShare)
      end(n + 1, 'settled', evidence(400))
    }
    const noteOf = (runId: number) => capacities.all().find(c => c.runId === runId)!.note
    expect([1, 2, 3].map(noteOf)).toEqual([
      undefined,
      'Seconds counted in which neighbours took up to 5.0 % of its CPU.',
      'Every second counted, whatever neighbours took of its CPU.',
    ])
  })

  it('broken off in the middle is begun once more, and not a third time', async () => {
    const { calibrations, capacities, end, begun, item, tick } = desk()
    await calibrations.begin(WISH)
    await begun(1)
    end(1, 'settled')
    tick()
    await begun(2)
    await until(() => Promise.resolve(item().runIds.length === 2), 3000, 'the second run to be kept')
    end(2, 'settled')
    expect(item()).toMatchObject({ state: 'failed', runIds: [1, 2] })
    expect(capacities.all()).toEqual([])
  })

  it('whose run never began says why; one whose run somebody ended is not repeated', async () => {
    const { calibrations, end, begun, item, runs } = desk()
    await calibrations.begin(WISH)
    await begun(1)
    end(1, 'failed')
    expect(item()).toMatchObject({ state: 'failed', problem: 'Not run: lacks 1 of 1 brisk-1' })
    const second = await calibrations.begin(WISH)
    await begun(2)
    end(2, 'aborted')
    expect(item(second)).toMatchObject({ state: 'failed', problem: 'Run 2 was aborted.' })
    expect(runs.size).toBe(2)
  })

  it('whose sink dies ends its run at once, begins the item again with another, and gives up when that dies too', async () => {
    const { calibrations, end, begun, item, stopped, tick } = desk({ sink: DEAD_SINK })
    await calibrations.begin(WISH)
    await begun(1)
    await until(() => (tick(), Promise.resolve(stopped.length === 1)), 5000, 'the first run to be stopped')
    expect(stopped).toEqual([[1, 'the built-in sink has ended']])
    // What was seen of a sink that was gone is no finding about the target.
    end(1, 'stopped', evidence(0, { outcome: 'inconclusive', why: 'target', signals: {} } as never))
    tick()
    await begun(2)
    await until(() => (tick(), Promise.resolve(stopped.length === 2)), 5000, 'the second run to be stopped')
    end(2, 'stopped')
    expect(item()).toMatchObject({
      state: 'failed',
      problem:
        'Not known: the built-in sink has ended, twice. Look at the console of the server, then calibrate again.',
    })
  })

  it('stopped by hand ends its run, and what waits is not begun', async () => {
    const { calibrations, end, begun, stopped } = desk({
      offered: offers({
        types: [
          { name: 'brisk-1', vcpu: 1, memoryMb: 2048, pricePerHour: 0.06, billingGrainS: 60 },
          { name: 'brisk-2', vcpu: 2, memoryMb: 4096, pricePerHour: 0.11, billingGrainS: 60 },
        ],
      }),
    })
    const id = await calibrations.begin({ ...WISH, types: ['brisk-1', 'brisk-2'] })
    await begun(1)
    await until(
      () => Promise.resolve(calibrations.batch(id).items[0]!.state === 'running'),
      3000,
      'the first item to be under way',
    )
    calibrations.stop(id)
    expect(stopped).toEqual([[1, 'stopped by hand']])
    end(1, 'stopped')
    expect(calibrations.batch(id)).toMatchObject({
      stopped: true,
      endedAt: expect.any(Number),
      items: [
        { state: 'failed', problem: 'Run 1 was stopped.' },
        { state: 'failed', problem: 'stopped by hand' },
      ],
    })
    expect(() => calibrations.stop(id)).toThrow(`Calibration ${id} is over.`)
    expect(() => calibrations.batch(99)).toThrow('calibration 99')
  })

  it('takes the letters a plan gives its region, or the first of its name', async () => {
    const { calibrations, library, runs, begun, end } = desk()
    await calibrations.begin(WISH)
    await begun(1)
    expect(runs.get(1)!.document.plan.locations[0]!.code).toBe('REY')
    end(1, 'settled', evidence(400))
    library.savePlan(
      'p',
      plan({
        locations: [{ code: 'NOR', provider: 'nimbral', region: 'reyk', machineType: 'brisk-1', machines: 'auto' }],
        placement: { A: { NOR: 10_000 } },
      }),
      0,
    )
    await calibrations.begin(WISH)
    await begun(2)
    expect(runs.get(2)!.document.plan.locations[0]!.code).toBe('NOR')
  })
})

describe('a capacity over time', () => {
  const byHand = { journeyId: 'look', network: 'direct', provider: 'nimbral', machineType: 'brisk-1', vcpu: 1 }

  it('goes stale when the journey changes, and says since when; a name alone changes nothing', () => {
    const { capacities, library } = desk()
    const { id } = capacities.setByHand({ ...byHand, users: 100, note: 'from last year' })
    expect(capacities.current().stale).toEqual([])
    library.saveJourney(journey({ name: 'Look about' }), 1)
    expect(capacities.current().stale).toEqual([])
    library.saveJourney(journey({ round: [] }), 2)
    expect(capacities.current().stale).toEqual([id])
    expect(capacities.view(id).line.stale).toEqual(['the journey has changed since version 1'])
  })

  it('goes stale when its machine type is another, or it was made by another release', () => {
    const { capacities } = desk({
      offered: offers({ types: [{ name: 'brisk-1', vcpu: 2, memoryMb: 2048, pricePerHour: 0.06, billingGrainS: 60 }] }),
    })
    const made = capacities.setByHand({ ...byHand, users: 100 })
    expect(capacities.line(made).stale).toEqual(['brisk-1 has 2 vCPU now'])
    expect(capacities.line({ ...made, vcpu: 2, release: '0.0.1' }).stale).toEqual(['it was made with release 0.0.1'])
    expect(capacities.line({ ...made, vcpu: 2, journeyId: 'gone' }).stale).toEqual([
      'the journey is not there any more',
    ])
  })

  it('is refined by a run in every signal alike, and what was there stays in its history', () => {
    const { capacities, move } = desk()
    const before = capacities.setByHand({ ...byHand, users: 100 })
    move(1000)
    const after = capacities.refine(before.id, 110, 7)
    expect(after).toMatchObject({ origin: 'refined', users: 110, runId: 7, note: 'from run 7' })
    expect(after.lower).toBeCloseTo(before.lower * 1.1, 9)
    expect(capacities.view(after.id).history.map(l => l.capacity.users)).toEqual([110, 100])
    expect(capacities.asSizedBy([after.id])).toMatchObject([{ id: after.id, users: 110, runId: 7 }])
    expect(() => capacities.refine('nothing', 1, 1)).toThrow('capacity nothing')
  })

  it('of 0 is refused; the same from elsewhere is taken once, and can be taken away', () => {
    const { capacities } = desk()
    expect(() => capacities.setByHand({ ...byHand, users: 0 })).toThrow('A capacity of 0 carries nobody.')
    const mine = capacities.setByHand({ ...byHand, users: 100 })
    const other = { ...mine, id: 'theirs', users: 90 }
    expect(capacities.take([mine, other, other])).toBe(2)
    expect(capacities.take([other])).toBe(0)
    capacities.drop('theirs')
    expect(() => capacities.drop('theirs')).toThrow('capacity theirs')
    expect(capacities.all().map(c => c.id)).toEqual([mine.id])
  })
})
