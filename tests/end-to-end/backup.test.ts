/** A backup taken under load, and what comes of it: the same installation elsewhere, or another one. */
import { spawnSync } from 'node:child_process'
import { createReadStream, createWriteStream, existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { pipeline } from 'node:stream/promises'
import { createGunzip } from 'node:zlib'
import { PORTAL_ID } from '../../demo/scenario'
import type { FleetView } from '../../api/views'
import { ownFolder } from '../build/folder'
import { CLOUD_KEY, House, until } from '../build/house'
import { hill, journey, plan, step } from '../build/plans'
import { pinAt } from '../build/pin-at'

const DIST = join(__dirname, '../../dist')
const folder = ownFolder()
const file = join(folder, 'kept.tar.gz')
const under = (name: string) => join(folder, name)
const glance = journey({ id: 'glance', name: 'Glance', round: [step({ name: 'Timetable' })] })
let house: House
let id = 0
let merged: Record<string, number> = {}
let secret: string
let pin = ''
let told = ''

const cli = (program: string, args: string[], dataFolder: string) =>
  spawnSync(process.execPath, [join(DIST, `${program}.mjs`), ...args], {
    encoding: 'utf8',
    env: { ...process.env, VORNAK_DATA: dataFolder, VORNAK_KEY_FILE: `${house.folder}.key` },
  })
const startIn = (dataFolder: string) =>
  house.startVornak({ VORNAK_DATA: dataFolder, VORNAK_KEY_FILE: `${house.folder}.key` })
const strays = async () => (await house.get<FleetView>('fleet')).strays

beforeAll(async () => {
  const small = plan({
    targetId: PORTAL_ID,
    rehearse: false,
    objectives: [],
    assumedUsersPerVcpu: 50,
    locations: [{ code: 'REY', provider: 'nimbral', region: 'reyk', machineType: 'brisk-1', machines: 1 }],
    placement: { A: { REY: 10_000 } },
    groups: [{ letter: 'A', name: 'Lookers', journeyId: 'glance', profile: hill(6, 1, 14, 1) }],
  })
  house = await House.build({ plans: { small }, journeys: [glance] })
  pin = await pinAt(house.ports.door)
}, 60_000)
afterAll(() => house.close())

describe('a backup', () => {
  it('is made while a run loads, of everything, by its sums; the run is not disturbed', async () => {
    id = await house.startPlan('small')
    await house.runUntil(id, r => r.line.startAt !== undefined && r.now - r.line.startAt > 4000, 'to load for 4 s')
    const server = { host: '127.0.0.1', port: 9, security: 'none', from: 'load@ostervik.example' }
    expect((await house.post('sending/mail', server, 'PUT')).status).toBe(200)
    expect((await house.post('sending/hooks', { name: 'gate', address: 'http://127.0.0.1:9/', tells: ['state'] })).status).toBe(200)
    const opens = { kind: 'run', runs: [id], showsMachines: false, showsExchanges: false }
    secret = String((await house.post('links', { opens, days: 1 })).body.secret)
    const { status, stdout, stderr } = cli('backup', [file], house.folder)
    expect([status, stderr]).toEqual([0, ''])
    told = stdout
    expect(stdout).toMatch(/: vornak-\w+ with 1 run and \d+ files\. Secrets in it are sealed/)
    expect(statSync(file).mode & 0o777).toBe(0o600)
    expect(readdirSync(folder)).toEqual(['kept.tar.gz'])
    // A tar as anybody reads it.
    const listed = spawnSync('tar', ['tzf', file], { encoding: 'utf8' }).stdout.trim().split('\n')
    expect(listed).toEqual(expect.arrayContaining(['vornak-backup.json', 'vornak.db', `runs/run-${id}.db`]))
    const run = await house.ended(id)
    expect([run.line.state, run.summary!.ledger.missing]).toEqual(['settled', 0])
    merged = await house.mergedByStep(id)
    expect(merged).toEqual(await house.receivedByStep(id))
  }, 90_000)

  it('is refused where something is in the way, in words', () => {
    expect(cli('backup', [file], house.folder).stderr).toContain('is there already')
    expect(cli('backup', [under('x.tar.gz')], under('nowhere')).stderr).toContain('holds no data of Vornak')
    expect(cli('backup', [], house.folder).stderr).toContain('Say where to')
    expect(readdirSync(folder)).toEqual(['kept.tar.gz'])
  })
})

describe('bringing it back', () => {
  it('is refused while it runs where it was, into a folder that holds something, and when it was changed', async () => {
    expect(cli('restore', [file, 'go-on'], under('a')).stderr).toMatch(/is held by process \d+/)
    mkdirSync(under('full'))
    writeFileSync(join(under('full'), 'x'), 'x')
    expect(cli('restore', [file, 'begin-anew'], under('full')).stderr).toContain('is not empty')
    expect(cli('restore', [file, 'perhaps'], under('a')).stderr).toContain('Say go-on or begin-anew')
    // One bit of what is packed.
    const raw = under('raw.tar')
    await pipeline(createReadStream(file), createGunzip(), createWriteStream(raw))
    const bytes = readFileSync(raw)
    bytes[bytes.length - 20_000]! ^= 1
    writeFileSync(raw, bytes)
    expect(cli('restore', [raw, 'begin-anew'], under('a')).stderr).toContain('is damaged: ')
    writeFileSync(raw, 'no archive')
    expect(cli('restore', [raw, 'begin-anew'], under('a')).stderr).toContain('Nothing was brought back')
    expect([existsSync(under('a')), existsSync(`${under('a')}.restoring`)]).toEqual([false, false])
  })

  it('as another one: it owns no machine, knows no session, and lists what the old one has as strays', async () => {
    // A machine of the old installation that stays out.
    const label = / (vornak-\w+) with/.exec(told)![1]
    expect(cli('restore', [file, 'begin-anew'], under('anew'))).toMatchObject({ status: 0, stderr: '' })
    await fetch(`http://127.0.0.1:${house.ports.cloud}/v1/machines`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', authorization: `Bearer ${CLOUD_KEY}` },
      body: JSON.stringify({ region: 'osaki', type: 'brisk-2', name: `${label}-r99-osa-1`, endsAfterS: 600, attached: { diskGb: 10 } }),
    })
    await house.kill('vornak')
    await startIn(under('anew'))
    expect(await pinAt(house.ports.door)).not.toBe(pin)
    // Nobody is told of anything by both, and links stay with the other one.
    expect(await house.get('sending')).toEqual({ hooks: [], dispatches: [] })
    expect((await fetch(`${house.url}/api/shared`, { headers: { authorization: `Bearer ${secret}` } })).status).toBe(401)
    // It was under load when it was taken: what it had found is closed and kept.
    const run = await house.runUntil(id, r => r.line.endedAt !== undefined, 'to be closed')
    expect(run.machines.every(m => m.goneAt !== undefined)).toBe(true)
    const kept = await house.mergedByStep(id)
    expect(Object.values(kept).reduce((a, b) => a + b, 0)).toBeGreaterThan(0)
    await until(async () => (await strays()).length > 0, 15_000, 'the stray to be listed')
    const { provider, ref } = (await strays())[0]!
    expect((await house.post(`strays/${provider}/${encodeURIComponent(ref)}`)).status).toBe(200)
    await until(async () => (await strays()).length === 0, 15_000, 'it to be gone')
    await house.kill('vornak')
  }, 90_000)

  it('as the same one: generators know it, and where it was it does not start again', async () => {
    expect(cli('restore', [file, 'go-on'], under('on'))).toMatchObject({ status: 0, stderr: '' })
    const old = spawnSync(process.execPath, [join(DIST, 'main.mjs')], {
      encoding: 'utf8',
      timeout: 20_000,
      env: { ...process.env, VORNAK_DATA: house.folder, VORNAK_PORT: String(house.ports.vornak) },
    })
    expect([old.status, old.stderr]).toEqual([1, expect.stringContaining(`goes on there`)])
    // Nor is it the same one in a third place.
    expect(cli('restore', [file, 'go-on'], under('third')).stderr).toContain(`to ${under('on')}, and goes on there`)
    await startIn(under('on'))
    expect(await pinAt(house.ports.door)).toBe(pin)
    expect((await house.get<{ line: { planId: string } }>(`runs/${id}`)).line.planId).toBe('small')
    // A new run works there from beginning to end.
    const again = await house.startPlan('small')
    const run = await house.ended(again)
    expect([run.line.state, run.summary!.ledger.missing]).toEqual(['settled', 0])
    expect(await house.mergedByStep(again)).toEqual(await house.receivedByStep(again))
  }, 120_000)
})
