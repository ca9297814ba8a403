/** Figures that commands on private hosts write: over Debian's own SSH server, also through a host in between. */
import { appendFileSync, existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import ssh2 from 'ssh2'
import { CommandReader } from '../../control/target/command-reader'
import type { CommandHosts } from '../../control/target/source-reader'
import { SourceTrouble } from '../../control/target/trouble'
import { openSession, type KeyRoom } from '../../control/hosts/ssh/session'
import { settleHost, type Site } from '../../core/fleet/site'
import type { SeriesChoice, Source } from '../../core/target/source'
import { ownFolder } from '../build/folder'
import { until } from '../build/house'
import { clientKey, OpenSshHost } from '../build/openssh'

const folder = ownFolder()
const key = clientKey()
let host: OpenSshHost
let jump: OpenSshHost
beforeAll(async () => {
  host = await new OpenSshHost('h', join(folder, 'h'), { publicKey: key.public }).start()
  jump = await new OpenSshHost('j', join(folder, 'j'), { publicKey: key.public, forwarding: true }).start()
  mkdirSync(join(folder, 'own'), { recursive: true })
}, 60_000)
afterAll(async () => {
  await host.stop()
  await jump.stop()
})

const now = () => Date.now()
const pins = new Map<string, string>()
const room: KeyRoom = {
  key: () => ssh2.utils.parseKey(key.private),
  pinned: (address, port) => pins.get(`${address}:${port}`),
  pin: (address, port, fingerprint) => void pins.set(`${address}:${port}`, fingerprint),
}
const site = (over: Partial<Site['template']> = {}): Site => ({
  id: 'own',
  code: 'OWN',
  name: 'Own',
  template: { user: 'root', port: host.port, folder: '~/vornak', signIn: { kind: 'key', key: 'k' }, ...over } as Site['template'],
  hosts: [{ name: 'h', address: '127.0.0.1' }],
})
const hosts = (of = site()): CommandHosts => ({ open: () => openSession(settleHost(of, of.hosts[0]!), room) })
const gauge = (of: string, over: Partial<SeriesChoice> = {}): SeriesChoice => ({ name: of, of, kind: 'gauge', ...over })
const source = (over: Partial<Source>): Source =>
  ({ name: 's', kind: 'command', address: 'own/h', everyS: 1, series: [gauge('a')], ...over })
const readers: CommandReader[] = []
const reader = (over: Partial<Source>, of = hosts()) => {
  const made = new CommandReader(source(over), of, now, 7)
  readers.push(made)
  return made
}
afterEach(() => readers.splice(0).forEach(r => r.close()))
const troubleOf = async (of: CommandReader) => {
  const error: unknown = await of.read().then(() => undefined, (e: unknown) => e)
  return error instanceof SourceTrouble ? { step: error.step, sentence: error.message } : error
}

it('a line that is run anew each time is read as lines, and by patterns; it knows the run', async () => {
  const file = join(folder, 'own/figure')
  writeFileSync(file, '3')
  const lines = reader({ command: `echo "a $(cat ${file})"; echo run {{run}}`, series: [gauge('a'), gauge('run')] })
  expect((await lines.read()).points.map(p => p.value)).toEqual([3, 7])
  writeFileSync(file, '4')
  const { points, ageMs } = await lines.read()
  expect(points.map(p => p.value)).toEqual([4, 7])
  expect(ageMs).toBeLessThan(2000)
  const pattern = gauge('(?m)^(?<kind>[a-z]+):', { by: 'kind' })
  const users = reader({ command: `printf 'x:1\\ny:1\\nx:2\\n'`, byPattern: true, series: [pattern] })
  expect((await users.read()).points.map(p => [p.split, p.value])).toEqual([['x', 2], ['y', 1]])
})

it('through a host in between, too', async () => {
  const through = site({ jump: { address: '127.0.0.1', port: jump.port, user: 'root' } } as Partial<Site['template']>)
  const { points } = await reader({ command: 'echo a 5' }, hosts(through)).read()
  expect(points.map(p => p.value)).toEqual([5])
})

it('says what is wrong: where it ends, what it writes, and that nobody is there; and goes on when it can', async () => {
  expect(await troubleOf(reader({ command: 'echo nonsense >&2; exit 4' }))).toEqual({
    step: 'answer',
    sentence: 'own/h: the command ended with exit code 4: nonsense.',
  })
  expect(await troubleOf(reader({ command: 'echo State Recv-Q' }))).toEqual({
    step: 'page',
    sentence: 'Line 1: “Recv-Q” is no number.',
  })
  expect(await troubleOf(reader({ command: 'sleep 20' }))).toEqual({
    step: 'answer',
    sentence: 'own/h: the command has not ended within 5 s.',
  })
  const silent = { ...site(), hosts: [{ name: 'h', address: '127.0.0.1', port: 1 }] }
  expect(await troubleOf(reader({ command: 'true' }, hosts(silent)))).toMatchObject({ step: 'connection' })
  const broken = reader({ command: 'echo a 1' })
  await broken.read()
  host.breakConnections()
  await sleep(200)
  expect((await broken.read()).points).toHaveLength(1)
})

describe('a command that runs on', () => {
  const alive = (file: string) => {
    const pid = readFileSync(file, 'utf8').trim()
    return existsSync(`/proc/${pid}`)
  }
  const counting = (file: string) =>
    `echo $$ > ${file}; n=0; while :; do n=$((n+1)); echo "a $n"; sleep 0.1; done`
  const someRead = async (of: CommandReader, atLeast: number) => {
    const values: { value: number, atMs: number }[] = []
    await until(async () => {
      values.push(...(await of.read()).points)
      return values.length >= atLeast
    }, 15_000, `${atLeast} values`)
    return values
  }

  it('is read as its lines come, each at its own moment; it ends with its reader', async () => {
    const file = join(folder, 'own/pid')
    const running = reader({ command: counting(file), runsOn: true })
    const values = await someRead(running, 10)
    expect(values.map(v => v.value)).toEqual(values.map((_, at) => at + 1))
    const gaps = values.slice(1).map((v, at) => v.atMs - values[at]!.atMs)
    expect(gaps.reduce((sum, g) => sum + g, 0) / gaps.length).toBeGreaterThan(80)
    expect(alive(file)).toBe(true)
    running.close()
    await until(() => Promise.resolve(!alive(file)), 10_000, 'the command to end')
  })

  it('counts by pattern what a log gains, by step and of this run alone, also when it is begun anew', async () => {
    const log = join(folder, 'own/access.log')
    const line = (path: string, run = 7) => `GET ${path} HTTP/1.1 200 run=${run}\n`
    writeFileSync(log, line('/old'))
    const calls = (of: string, over: Partial<SeriesChoice> = {}): SeriesChoice =>
      ({ name: 'calls', of, kind: 'count', by: 'path', standsFor: 'calls', ...over })
    const command = `tail -n 0 -F ${log}`
    const followed = { command, runsOn: true, byPattern: true, series: [calls('(?m)^GET (?<path>\\S+) .* run={{run}}$')] }
    const running = reader(followed)
    const grown = new Map<string, number>()
    const isGrown = (paths: Record<string, number>) => async () => {
      for (const { split, value } of (await running.read()).points) grown.set(split, value)
      return Object.entries(paths).every(([path, n]) => (grown.get(path) ?? 0) >= n)
    }
    await running.read()
    await sleep(1500)
    appendFileSync(log, line('/a') + line('/a') + line('/b') + line('/a', 8))
    await until(isGrown({ '/a': 2, '/b': 1 }), 10_000, 'three calls')
    appendFileSync(log, line('/a'))
    await until(isGrown({ '/a': 3 }), 10_000, 'one more')
    host.breakConnections()
    await until(async () => (await running.read().then(() => false, () => true)), 10_000, 'the end to be told')
    await running.read().catch(() => undefined)
    await sleep(1500)
    appendFileSync(log, line('/b') + line('/b'))
    await until(isGrown({ '/a': 3, '/b': 3 }), 10_000, 'two more')
    expect([...grown]).toEqual([['/a', 3], ['/b', 3]])
  })

  it('of figures that it tells again and again the last one stands', async () => {
    const command = 'while :; do printf "cpu 40\\ncpu 42\\n"; sleep 0.2; done'
    const running = reader({ command, runsOn: true, byPattern: true, series: [gauge('cpu (\\d+)')] })
    expect(new Set((await someRead(running, 5)).map(v => v.value))).toEqual(new Set([42]))
  })

  it('ends with all it began, though it writes nothing more', async () => {
    const file = join(folder, 'own/pid-3')
    const running = reader({ command: `sleep 1000 & echo $! > ${file}; echo a 1; wait`, runsOn: true })
    await someRead(running, 1)
    expect(alive(file)).toBe(true)
    running.close()
    await until(() => Promise.resolve(!alive(file)), 10_000, 'what it began to end')
  })

  it('ends on its host when the link breaks, and is begun anew', async () => {
    const file = join(folder, 'own/pid-2')
    const running = reader({ command: counting(file), runsOn: true })
    await someRead(running, 3)
    const first = readFileSync(file, 'utf8')
    host.breakConnections()
    await until(() => Promise.resolve(!existsSync(`/proc/${first.trim()}`)), 10_000, 'the first one to end')
    let troubles = 0
    await until(async () => {
      await running.read().catch(() => troubles++)
      return readFileSync(file, 'utf8') !== first
    }, 15_000, 'another one')
    expect(troubles).toBe(1)
    expect((await someRead(running, 2))[0]!.value).toBeLessThan(20)
  })

  it('one that ends is told with what it said', async () => {
    rmSync(join(folder, 'own/x'), { force: true })
    const running = reader({ command: 'echo a 1; echo gone wrong >&2; exit 3', runsOn: true })
    await someRead(running, 1)
    // Its last line may come before its end does.
    let trouble: unknown
    await until(async () => (trouble = await troubleOf(running)) !== undefined, 10_000, 'its end')
    expect(trouble).toEqual({ step: 'answer', sentence: 'own/h: the command ended with exit code 3: gone wrong.' })
  })
})
