/**
 * Journeys on real processes: three generators walk the portal as browsers do, with accounts that may be used once; an
 * overloaded portal gives wrong answers with a good status; a command runs from its kit. The portal's own count is the
 * independent side.
 */
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { create, Header } from 'tar'
import type { ExemplarsView, TriedView, WindowView } from '../../api/views'
import { Histogram } from '../../core/histogram/histogram'
import type { CommandJourney, HttpJourney } from '../../core/journey/journey'
import type { Plan } from '../../core/plan/document'
import { PORTAL_ID } from '../../demo/scenario'
import { enrolmentJourney } from '../build/enrolment'
import { House } from '../build/house'
import { hill, plan } from '../build/plans'

const paced = (journey: HttpJourney): HttpJourney => ({
  ...journey,
  round: journey.round.map(s => ({ ...s, think: { kind: 'uniform', fromMs: 100, toMs: 300 } })),
})
const three = (journeyId: string, users: number): Plan =>
  plan({
    targetId: PORTAL_ID,
    groups: [{ letter: 'A', name: 'Students', journeyId, profile: hill(users, 2, 7, 1) }],
    locations: ['reyk', 'tavira', 'osaki'].map((region, i) => ({
      code: ['REY', 'TAV', 'OSA'][i]!,
      provider: 'nimbral',
      region,
      machineType: 'brisk-1',
      machines: 1,
    })),
    placement: { A: { REY: 4000, TAV: 3500, OSA: 'rest' } },
    objectives: [{ metric: 'p95', step: 'Choosing', atMost: 5000 }],
    assumedUsersPerVcpu: 60,
    exemplars: { failuresPerSecond: 1000, slowest: true, oneInPasses: 1, mostMb: 64 },
  })
const command: CommandJourney = {
  schema: 'vornak-journey/1',
  kind: 'command',
  id: 'look-by-command',
  name: 'Look by command',
  kit: '',
  runtimes: [{ program: 'node', arguments: ['--version'] }],
  run: ['node', 'load.mjs'],
  steps: ['Look'],
  bringBack: ['asked.txt'],
}
let house: House
let small: House

beforeAll(async () => {
  house = await House.build({
    journeys: [paced(enrolmentJourney())],
    plans: { once: three('enrolment', 24), command: { ...three('look-by-command', 9), objectives: [] } },
  })
  // Two workers, careless as soon as anybody waits.
  small = await House.build({
    journeys: [
      paced(
        enrolmentJourney({
          feeds: [],
          round: enrolmentJourney().round.map(s =>
            s.name === 'Sign in'
              ? ({
                  ...s,
                  body: {
                    kind: 'form',
                    fields: [
                      ['student', 'u{{user.number}}-{{pass.number}}'],
                      ['password', 'x'],
                    ],
                  },
                } as typeof s)
              : s,
          ),
        }),
      ),
    ],
    plans: { over: { ...three('enrolment', 60), rehearse: false } },
    portal: { workers: 1, replicas: 1, mostReplicas: 1, carelessAtWaiting: 3 },
  })
  const students = await house.upload(
    Buffer.from(`name,year\n${Array.from({ length: 3000 }, (_, i) => `s${i},${i % 4}`).join('\n')}\n`),
    'students.csv',
  )
  expect((await house.post('feeds', { file: students, name: 'students' })).body).toMatchObject({
    id: 'students',
    rows: 3000,
    columns: ['name', 'year'],
    encoding: 'utf-8',
    separator: ',',
    header: true,
  })
  const target = (await house.get<{ id: string }[]>('targets'))[0]!
  expect(
    (await house.post(`targets/${target.id}`, { target, secrets: { password: 'open-sesame' } }, 'PUT')).status,
  ).toBe(200)
}, 90_000)
afterAll(async () => {
  await house?.close()
  await small?.close()
}, 30_000)

describe('a journey under load on three generators', () => {
  it('can be tried first, here; the secret is used, and shown nowhere', async () => {
    const { journey } = await house.get<{ journey: HttpJourney }>('journeys/enrolment')
    const { body, status } = await house.post('journeys/try', { journey, targetId: PORTAL_ID })
    const tried = body as unknown as TriedView
    expect([status, tried.problem, tried.records.map(r => r.failure)]).toEqual([
      200,
      '',
      tried.records.map(() => undefined),
    ])
    expect(tried.records.map(r => r.step)).toEqual([
      'Sign in',
      'portal.css',
      'portal.js',
      'crest.svg',
      'Token',
      'Modules',
      'Enrol',
    ])
    expect(JSON.stringify(tried)).not.toContain('open-sesame')
    expect(tried.records[0]!.request.body).toBe('student=s2999&password=•••')
    expect(readFileSync(join(house.folder, 'vornak.db')).includes('open-sesame')).toBe(false)
    // A target that is not approved is not sent to.
    await house.post('targets', {
      target: { id: 'x', name: 'Elsewhere', environment: 'test', baseUrl: 'http://127.0.0.1:9' },
    })
    expect((await house.post('journeys/try', { journey, targetId: 'elsewhere' })).body).toMatchObject({
      code: 'not-approved',
    })
  }, 60_000)

  it('never uses a row twice, merges exactly what the portal counted, and times spans as its exemplars do', async () => {
    const id = await house.startPlan('once')
    const run = await house.ended(id)
    expect([run.line.state, run.summary!.ledger.balanced]).toEqual(['settled', true])
    expect(run.document.journeyVersions).toEqual({ enrolment: 1 })
    expect(await house.mergedByStep(id)).toEqual(await house.receivedByStep(id))
    const students = (await (await fetch(`http://127.0.0.1:${house.ports.portal}/students`)).json()) as Record<
      string,
      number
    >
    const window = await house.get<WindowView>(`runs/${id}/window?from=0&to=3600`)
    const figures = (step: string) => window.steps.find(s => s.step === step)!.figures
    // One account was used by the try, three by the rehearsal.
    expect(Object.keys(students).length).toBe(figures('Enrol').right + 4)
    expect(new Set(Object.values(students))).toEqual(new Set([1]))
    expect(figures('Enrol').failed).toBe(0)

    const kept = await Promise.all(
      ['Token', 'Modules', 'Enrol'].map(step => house.get<ExemplarsView>(`runs/${id}/exemplars?step=${step}&most=200`)),
    )
    expect(kept[2]!.total).toBe(figures('Enrol').right)
    expect(kept[0]!.dropped).toBe(0)
    if (kept[0]!.total <= 200) {
      const passes = new Map<string, number>()
      for (const r of kept.flatMap(k => k.records))
        passes.set(
          `${r.generator} ${r.user} ${r.pass}`,
          (passes.get(`${r.generator} ${r.user} ${r.pass}`) ?? 0) + r.timings.wholeMs,
        )
      const whole = [...passes].filter(([key]) =>
        kept[2]!.records.some(r => `${r.generator} ${r.user} ${r.pass}` === key),
      )
      const expected = new Histogram()
      for (const [, ms] of whole) expected.record(ms * 1000)
      expect(figures('Choosing').right).toBe(expected.count)
      expect([figures('Choosing').p50Ms, figures('Choosing').p95Ms]).toEqual(
        [0.5, 0.95].map(p => expected.percentileUs(p)! / 1000),
      )
    }
  }, 120_000)

  it('counts an overloaded portal’s wrong answers as failures by name, though their status is good', async () => {
    const id = await small.startPlan('over')
    await small.ended(id)
    expect(await small.mergedByStep(id)).toEqual(await small.receivedByStep(id))
    const window = await small.get<WindowView>(`runs/${id}/window?from=0&to=3600`)
    const enrol = window.steps.find(s => s.step === 'Enrol')!.figures
    expect(enrol.failures.expectation).toBeGreaterThan(0)
    // Number 1 in the step's list: after the unsaid status comes “$.enrolled is true”.
    expect(enrol.misses).toEqual([[1, enrol.failures.expectation]])
    const { records } = await small.get<ExemplarsView>(`runs/${id}/exemplars?step=Enrol&failure=expectation`)
    expect(records[0]).toMatchObject({
      failure: 'expectation',
      answer: { status: 200, body: '{"enrolled":false,"message":"please wait"}' },
    })
    expect(records[0]!.problem).toBe('expected: $.enrolled is true; saw false')
  }, 120_000)

  it('runs a command from its kit, merges its samples, and brings its files back', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'vornak-kit-test-'))
    await create({ gzip: true, file: join(folder, 'kit.tgz'), cwd: join(__dirname, '../../examples/command-kit') }, [
      '.',
    ])
    const kit = await house.upload(readFileSync(join(folder, 'kit.tgz')), 'kit.tgz')
    rmSync(folder, { recursive: true })
    expect((await house.post('journeys', { journey: { ...command, kit } })).body).toMatchObject({
      id: 'look-by-command',
    })
    const id = await house.startPlan('command')
    const run = await house.ended(id)
    expect([run.line.state, run.summary!.ledger.balanced]).toEqual(['settled', true])
    const merged = await house.mergedByStep(id)
    expect(merged).toEqual(await house.receivedByStep(id))
    expect(merged.Look).toBeGreaterThan(50)
    const left = await house.get<{ generator: number, group: string, name: string }[]>(`runs/${id}/leftovers`)
    expect(left.map(l => l.name).sort()).toEqual([
      'asked.txt',
      'asked.txt',
      'asked.txt',
      'standard error.log',
      'standard error.log',
      'standard error.log',
    ])
    const asked = await Promise.all(
      left
        .filter(l => l.name === 'asked.txt')
        .map(async l =>
          Number(
            await (
              await fetch(`${house.url}/api/runs/${id}/leftovers/${l.generator}?group=${l.group}&name=${l.name}`)
            ).text(),
          ),
        ),
    )
    expect(asked.reduce((a, b) => a + b, 0)).toBe(merged.Look)
  }, 120_000)

  it('does not begin with a machine that lacks what a command needs, or with a kit that climbs out; both are said by name', async () => {
    const block = Buffer.alloc(512)
    new Header({ path: '../evil.mjs', size: 0, type: 'File', mode: 0o644 }).encode(block, 0)
    const climbing = await house.upload(Buffer.concat([block, Buffer.alloc(1024)]), 'evil.tar')
    const { journey, version } = await house.get<{ journey: CommandJourney, version: number }>(
      'journeys/look-by-command',
    )
    await house.post(
      'journeys/look-by-command',
      { journey: { ...journey, runtimes: [{ program: 'no-such-runtime', arguments: [] }] }, onVersion: version },
      'PUT',
    )
    const lacking = await house.ended(await house.startPlan('command'))
    expect([lacking.line.state, lacking.line.sentence]).toEqual([
      'failed',
      expect.stringContaining('no-such-runtime is not installed'),
    ])
    expect(lacking.machines.map(m => m.changes.some(c => c.to === 'unfit'))).toEqual(lacking.machines.map(() => true))
    await house.post(
      'journeys/look-by-command',
      { journey: { ...journey, kit: climbing }, onVersion: version + 1 },
      'PUT',
    )
    const refused = await house.ended(await house.startPlan('command'))
    expect([refused.line.state, refused.line.sentence]).toEqual([
      'failed',
      expect.stringContaining('“../evil.mjs” climbs out of the kit'),
    ])
  }, 120_000)
})
