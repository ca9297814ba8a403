/** The stand-ins alone: what the portal counts and says of itself, what the cloud gives, refuses and ends. */
import type { AddressInfo } from 'node:net'
import { writeFileSync, readFileSync, existsSync } from 'node:fs'
import { join } from 'node:path'
import { request } from 'undici'
import { createPortal, DEFAULT_SETTINGS, type Portal } from '../../standins/enrolment-portal/portal'
import { DEFAULT_CLOUD } from '../../standins/nimbral-cloud/catalogue'
import { type CloudError, Machines } from '../../standins/nimbral-cloud/machines'
import { FaultBook } from '../../standins/nimbral-cloud/faults'
import { processes } from '../../standins/nimbral-cloud/programs'
import { ownFolder } from '../build/folder'

describe('the enrolment portal', () => {
  let portal: Portal
  let base = ''
  beforeAll(async () => {
    portal = createPortal({
      ...DEFAULT_SETTINGS,
      routes: DEFAULT_SETTINGS.routes.map(r => ({ ...r, service: { kind: 'fixed', ms: 2 } })),
    })
    await new Promise<void>(r => portal.server.listen(0, '127.0.0.1', r))
    base = `http://127.0.0.1:${(portal.server.address() as AddressInfo).port}`
  })
  afterAll(() => {
    portal.server.closeAllConnections()
    portal.server.close()
  })
  const call = async (path: string, options: Parameters<typeof request>[1] = {}) => {
    const answer = await request(base + path, options)
    return { status: answer.statusCode, text: await answer.body.text() }
  }

  it('counts by run, step and second what it received, rehearsals apart', async () => {
    const headers = { 'vornak-run': '9', 'vornak-step': 'Enrol%20now' }
    await call('/enrol', { method: 'POST', headers, body: '{}' })
    await call('/enrol', { method: 'POST', headers, body: '{}' })
    await call('/timetable', { headers: { ...headers, 'vornak-rehearsal': '1' } })
    await call('/timetable')
    const counts = portal.counts.all()
    expect(counts['9']!['Enrol now']).toMatchObject({ received: 2, answered: { 201: 2 } })
    expect(Object.values(counts['9']!['Enrol now']!.bySecond).reduce((a, b) => a + b)).toBe(2)
    expect(counts['9 rehearsal']!['Enrol now']!.received).toBe(1)
    expect(counts['-']!['GET /timetable']!.received).toBe(1)
    expect(JSON.parse((await call('/counts')).text)).toEqual(counts)
  })

  it('answers 404 to what it does not have', async () => {
    expect(await call('/nowhere')).toMatchObject({ status: 404 })
  })

  it('has a metrics page as OpenMetrics wants it: typed families, counters in _total, an end mark', async () => {
    const answer = await request(`${base}/metrics`)
    const text = await answer.body.text()
    expect(answer.headers['content-type']).toContain('application/openmetrics-text; version=1.0.0')
    expect(text.endsWith('# EOF\n')).toBe(true)
    expect(text).toMatch(/^# TYPE portal_waiting gauge$/m)
    expect(text).toMatch(/^portal_replicas 2$/m)
    expect(text).toMatch(/^portal_answers_total\{route="\/enrol",status="201"\} \d+$/m)
    for (const line of text.trimEnd().split('\n'))
      expect(line).toMatch(/^(# (TYPE|HELP|EOF).*|[a-z_]+(\{[^}]*\})? [\d.]+)$/)
  })
})

describe('the Nimbral cloud', () => {
  const folder = ownFolder()
  const program = join(folder, 'machine.mjs')
  const note = join(folder, 'note.txt')
  writeFileSync(
    program,
    `import { writeFileSync } from 'node:fs'\nwriteFileSync(process.env.NOTE, process.env.VORNAK_MACHINE + ' ' + process.env.VORNAK_CORES)\nsetInterval(() => {}, 1000)\n`,
  )
  const settings = {
    ...DEFAULT_CLOUD,
    regions: [
      { name: 'reyk', quota: 2, bootS: 0.2 },
      { name: 'osaki', quota: 9, bootS: 0.2 },
    ],
    noStock: ['osaki'],
    lingerS: 30,
  }
  const cloud = new Machines(settings, processes(program), new FaultBook())
  afterAll(() => cloud.endAll())
  const ask = (over = {}) => ({
    region: 'reyk',
    type: 'brisk-2',
    name: 'a',
    environment: { NOTE: note },
    endsAfterS: 60,
    interruptible: false,
    attached: {},
    ...over,
  })
  const until = async (is: () => boolean) => {
    while (!is()) await new Promise(r => setTimeout(r, 20))
  }

  it('boots a real process with its share of the CPU, and says gone only when it has ended', async () => {
    const { id } = cloud.create(ask(), 'key-1')
    expect(cloud.create(ask(), 'key-1').id).toBe(id)
    expect(cloud.get(id).state).toBe('pending')
    await until(() => existsSync(note) && readFileSync(note, 'utf8').length > 0)
    expect(readFileSync(note, 'utf8')).toBe('a 1')
    expect(cloud.get(id).state).toBe('running')
    cloud.end(id)
    await until(() => cloud.get(id).state === 'gone')
    expect(cloud.list().find(m => m.id === id)!.goneAt).toBeDefined()
  })

  it('does not take a machine that runs for one that boots, however quick its boot was', async () => {
    const other = new Machines(
      { ...settings, regions: [{ name: 'reyk', quota: 40, bootS: 0.16 }] },
      processes(program),
      new FaultBook(),
    )
    const ids = Array.from({ length: 3 }, () => other.create(ask(), undefined).id)
    await new Promise(r => setTimeout(r, 700))
    expect(ids.map(id => other.get(id).state)).toEqual(['running', 'running', 'running'])
    await other.endAll()
  })

  it.each([
    ['an unknown region', { region: 'x' }, 'no-such-region'],
    ['an unknown type', { type: 'x' }, 'no-such-type'],
    ['no stock', { region: 'osaki' }, 'no-stock'],
  ])('refuses %s', (_, over, code) => {
    expect(() => cloud.create(ask(over), undefined)).toThrow(expect.objectContaining({ code }) as CloudError)
  })

  it('refuses beyond the quota, counting what is not yet gone', () => {
    const [a] = [cloud.create(ask(), undefined), cloud.create(ask(), undefined)]
    expect(() => cloud.create(ask(), undefined)).toThrow('The quota of reyk is 2 machines')
    cloud.end(a.id)
    expect(cloud.create(ask(), undefined).state).toBe('pending')
  })

  it('ends a machine by itself when its time is over', async () => {
    const other = new Machines(
      { ...settings, regions: [{ name: 'reyk', quota: 2, bootS: 5 }] },
      processes(program),
      new FaultBook(),
    )
    const { id } = other.create(ask({ endsAfterS: 0.3 }), undefined)
    await until(() => other.get(id).state === 'gone')
    expect(other.used('reyk')).toBe(0)
  })
})
