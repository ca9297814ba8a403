/**
 * Plans and network profiles in the library: versions, clones, archive, two who save at once, files, and what cannot
 * be.
 */
import { mkdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import Database from 'better-sqlite3'
import { againView, documentAgain } from '../../control/run/again'
import type { StoredRun } from '../../control/store/runs'
import { readPlanText } from '../../core/formats/plan-text'
import { realClock } from '../../control/clock'
import type { ControlError } from '../../control/errors'
import { FileRoom } from '../../control/library/files'
import { Library } from '../../control/library/library'
import { Plans } from '../../control/library/plans'
import { libraryStore } from '../../control/store/library'
import { openStore } from '../../control/store/open'
import { sealingWith } from '../../control/store/sealing'
import { networksView } from '../../control/library/network-view'
import { PRESETS } from '../../core/network/presets'
import { expectedConnects, notAchieved } from '../../core/merge/network-figures'
import { SeriesSum } from '../../core/merge/series-sum'
import { seriesOf } from '../../core/run/series'
import { findingsOf } from '../../core/soundness/verdict'
import { Capacities } from '../../control/library/capacities'
import { capacityStore } from '../../control/store/capacities'
import { sizePlan } from '../../core/fleet/sizing'
import { ledgerOf } from '../../core/merge/ledger'
import { ownFolder } from '../build/folder'
import { journey, offers, plan, runDocument, target } from '../build/plans'

const root = ownFolder()
let folders = 0
function house() {
  const folder = join(root, String(++folders))
  mkdirSync(folder, { recursive: true })
  const store = openStore(join(folder, 'vornak.db'))
  const tables = libraryStore(store)
  const library = new Library(
    tables,
    new FileRoom(join(folder, 'files'), tables, () => 5),
    sealingWith(join(folder, 'key')),
    realClock,
    () => [],
  )
  library.saveTarget(target())
  library.saveJourney(journey())
  const capacities = new Capacities({
    store: capacityStore(store),
    library,
    clock: realClock,
    remembered: () => undefined,
    onChange: () => {
      /* nobody watches */
    },
  })
  const plans = new Plans({
    library,
    capacities,
    sizer: { size: async (p, a) => Promise.resolve(sizePlan(p, a)), sizeNow: sizePlan },
    clock: realClock,
    offers: () => Promise.resolve(offers()),
    remembered: () => undefined,
    runLines: () => [],
    allowance: () => ({
      rails: {
        mostMachines: 9,
        mostUsers: 10_000,
        longestRunMin: 60,
        budgetPerRun: 5,
        budgetPerDay: 5,
        currency: 'EUR',
      },
      spentToday: 0,
    }),
    lastRunOf: () => undefined,
  })
  return { library, plans }
}
const codeOf = (act: () => unknown): string | undefined => {
  try {
    act()
  }
  catch (error) {
    return (error as ControlError).code
  }
  return undefined
}

describe('plans', () => {
  it('keep every version, show any, and tell what changed', async () => {
    const { plans } = house()
    plans.save('p', plan(), 0)
    plans.save('p', plan({ question: 'Still?' }), 1)
    const view = await plans.view('p')
    expect([view.version, view.latest, view.history.map(h => h.version)]).toEqual([2, 2, [2, 1]])
    const old = await plans.view('p', 1)
    expect([old.plan.question, old.version, old.latest]).toEqual(['Does it hold?', 1, 2])
    expect(plans.changes('p', 1, 2).changes).toEqual([{ what: 'question', before: 'Does it hold?', after: 'Still?' }])
    expect(codeOf(() => plans.stored('p', 9))).toBe('not-found')
  })

  it('again: a run says what has changed since, and its own document is held against what is allowed now', async () => {
    const { plans, library } = house()
    plans.save('p', plan(), 0)
    const { document } = await plans.toRun('p')
    const stored = { id: 7, planId: 'p', document } as StoredRun
    expect(await againView(stored, { library, plans })).toEqual({
      planVersionThen: 1,
      planVersionNow: 1,
      differences: [],
      exactlyInTheWay: [],
    })
    plans.save('p', plan({ question: 'Still?' }), 1)
    library.store.saveJourney(journey({ name: 'Look closer' }), 1, 9)
    const { differences, ...view } = await againView(stored, { library, plans })
    expect(view).toEqual({ planVersionThen: 1, planVersionNow: 2, exactlyInTheWay: [] })
    expect(differences).toEqual(['question: Does it hold? → Still?', 'journey Look closer: version 1 → 2'])
    const again = await documentAgain(stored, { library, plans })
    expect([again.plan.question, again.journeys[0]!.name, again.fleet]).toEqual([
      'Does it hold?',
      'Look around',
      document.fleet,
    ])
    // The approval is that of today, whatever it was then.
    library.saveTarget(target({ approval: { ...target().approval!, mostUsers: 5 } }))
    expect((await againView(stored, { library, plans })).exactlyInTheWay).toEqual([
      expect.stringContaining('agreed to at most 5'),
    ])
    await expect(documentAgain(stored, { library, plans })).rejects.toMatchObject({ code: 'in-the-way' })
  })

  it('saved by two at once lose neither: the second is told, and can save over, theirs staying in the versions', () => {
    const { plans } = house()
    plans.save('p', plan(), 0)
    plans.save('p', plan({ question: 'Theirs' }), 1)
    expect(codeOf(() => plans.save('p', plan({ question: 'Mine' }), 1))).toBe('saved-meanwhile')
    expect(plans.stored('p').plan.question).toBe('Theirs')
    plans.save('p', plan({ question: 'Mine' }), 2)
    expect([plans.stored('p').plan.question, plans.stored('p', 2).plan.question]).toEqual(['Mine', 'Theirs'])
  })

  it('begin empty, are cloned under names of their own, and are put away and back', async () => {
    const { plans } = house()
    const made = await plans.create('Enrolment', 'Can it?', 'portal')
    expect((await plans.view(made.id)).check.problems.map(p => p.code)).toEqual(
      expect.arrayContaining(['no-group', 'no-location']),
    )
    const [one, two] = [plans.clone(made.id), plans.clone(made.id)]
    expect([one.plan.name, two.plan.name, one.id === two.id]).toEqual(['Enrolment, again', 'Enrolment, again 2', false])
    plans.setArchived(made.id, true)
    expect([
      plans
        .list()
        .map(p => p.id)
        .includes(made.id),
      plans.list(true).map(p => p.id),
    ]).toEqual([false, [made.id]])
    plans.setArchived(made.id, false)
    expect(plans.list(true)).toEqual([])
  })

  it('of a provider, region or type called like something every object has are checked like any other', async () => {
    const { plans, library } = house()
    for (const name of ['constructor', 'toString', 'hasOwnProperty']) {
      const odd = plan({
        locations: [{ code: 'REY', provider: name, region: name, machineType: name, machines: 'auto' }],
        placement: { A: { REY: 10_000 } },
      })
      plans.save(name, odd, 0)
      expect((await plans.check(odd)).problems.map(p => p.code)).toContain('provider-silent')
      expect((await plans.view(name)).check.sizes).toEqual([])
      const typed = plan({
        locations: [{ code: 'REY', provider: 'nimbral', region: 'reyk', machineType: name, machines: 'auto' }],
        placement: { A: { REY: 10_000 } },
      })
      expect(
        (await plans.check(typed)).problems
          .filter(p => p.weight === 'inTheWay')
          .map(p => p.sentence)
          .join(),
      ).toContain(name)
      expect(
        library
          .problemsOf(journey({ feeds: [{ feed: name, as: 'f', deal: 'atRandom', per: 'pass', atEnd: 'again' }] }))
          .map(p => p.sentence)
          .join(),
      ).toContain(`The feed ${name} is not here.`)
    }
    expect(plans.list().map(p => p.problemsInTheWay)).toEqual(expect.arrayContaining([expect.any(Number)]))
  })

  it('go out as a file and come in as another plan', () => {
    const { plans } = house()
    plans.save('p', plan({ tags: ['a'], notes: 'Two\nlines: with a colon' }), 0)
    const read = readPlanText(plans.text('p'))
    expect(read).toEqual({ ok: true, plan: plans.stored('p').plan })
    expect(plans.keep(plans.stored('p').plan).id).toBe('a-plan')
  })

  it('of the release before are taken over with their version', () => {
    const path = join(root, 'second-release.db')
    const old = new Database(path)
    for (const name of ['001-ground', '002-library'])
      old.exec(readFileSync(join(__dirname, '../../control/store/migrations', `${name}.sql`), 'utf8'))
    old.pragma('user_version = 2')
    old
      .prepare('INSERT INTO plans (id, version, saved_at, document) VALUES (?, ?, ?, ?)')
      .run('p', 7, 5, JSON.stringify({ ...plan(), schema: 'vornak-plan/1' }))
    old.close()
    const store = openStore(path)
    expect(libraryStore(store).plan('p')).toEqual({ id: 'p', version: 7, savedAt: 5, plan: plan(), archived: false })
    store.close()
  })
})

describe('network profiles', () => {
  const own = { id: 'train', name: 'train', latencyMs: 90, jitterMs: 20, loss: 0.01, downBps: 3e6 }

  it('of one’s own stand beside the presets, which stay as they are', () => {
    const { library } = house()
    library.saveNetwork(own)
    expect(library.networks().map(n => n.id)).toEqual([...PRESETS.map(p => p.id), 'train'])
    expect(codeOf(() => library.saveNetwork({ ...own, id: 'city-fibre' }))).toBe('preset')
    expect(codeOf(() => library.removeNetwork('city-fibre'))).toBe('preset')
    expect(codeOf(() => library.saveNetwork({ ...own, downBps: 0 }))).toBe('profile')
  })

  it('that a plan uses are not removed, and show where they are used', () => {
    const { library, plans } = house()
    library.saveNetwork(own)
    plans.save('p', plan({ networks: { A: { REY: { train: 5000 } } } }), 0)
    expect(codeOf(() => library.removeNetwork('train'))).toBe('in-use')
    expect(networksView(library, []).profiles.find(p => p.profile.id === 'train')).toMatchObject({
      preset: false,
      plans: ['A plan'],
    })
    plans.save('p', plan(), 1)
    library.removeNetwork('train')
    expect(library.networks().length).toBe(PRESETS.length)
  })

  it('are held against what their users felt: connect times that are off are a finding', () => {
    const document = runDocument({
      plan: plan({ placement: { A: { REY: 10_000 } }, networks: { A: { REY: { 'commuter-mobile': 5000 } } } }),
      networks: [...PRESETS],
    })
    const series = seriesOf(document)
    const felt = (ms: number) => {
      const sums = new Map<number, SeriesSum>()
      series.forEach((s, n) => {
        const sum = new SeriesSum()
        if (s.measure === 0)
          for (let i = 0; i < 50; i++) sum.timings.connect.record((s.network === 'direct' ? 1 : ms) * 1000)
        sums.set(n, sum)
      })
      return expectedConnects(document, sums, {})
    }
    // 60 ms of the profile on top of the millisecond others of this place measured.
    expect(felt(62).find(n => n.network === 'commuter-mobile')!.expectedConnectMs).toBeCloseTo(61, 0)
    expect(notAchieved(felt(62))).toEqual([])
    const off = notAchieved(felt(90))
    expect(off).toHaveLength(1)
    const findings = findingsOf({
      health: new Map(),
      planned: [],
      present: [],
      ledger: ledgerOf([]),
      clockUncertaintyMs: new Map(),
      lost: [],
      capacityBasis: 'calibrated',
      rehearsed: true,
      failureShare: 0,
      networksOff: off,
      notReached: ['Callers: 40 requests/s cannot be reached.'],
      arrivals: [{ group: 'Visitors', planned: 100, started: 90, notStarted: { ceiling: 10 }, unknown: 0 }],
    })
    expect(findings.map(f => [f.code, f.weight])).toEqual(
      expect.arrayContaining([
        ['network-off', 'qualifies'],
        ['rate-not-reached', 'qualifies'],
        ['passes-not-started', 'qualifies'],
      ]),
    )
    expect(findings.find(f => f.code === 'passes-not-started')!.sentence).toBe(
      'Visitors: 10 of 100 passes were not started (10 too many passes under way).',
    )
  })
})
