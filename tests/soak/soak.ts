/**
 * A soak: run after run on real processes, while every few seconds something goes wrong: a generator is killed or
 * stands still, all links die, the controller is killed, the provider answers rubbish, the disk is full to the last
 * byte. What is merged must be what the target counted, less what the ledger declares; nothing may be left running.
 *
 * `npm run soak` (`VORNAK_SOAK_MIN`, `VORNAK_SOAK_SEED`). The disk is filled where a small file system can be mounted.
 */
import { spawnSync } from 'node:child_process'
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { MeterView, RunView } from '../../api/views'
import type { Plan } from '../../core/plan/document'
import { seededRandom } from '../../core/random/seeded'
import { DEMO_JOURNEYS, PORTAL_ID } from '../../demo/scenario'
import { NO_FAULTS } from '../../standins/nimbral-cloud/faults'
import { cable, type Cable } from '../build/cable'
import { House, until } from '../build/house'
import { hill, plan } from '../build/plans'

const MINUTES = Number(process.env.VORNAK_SOAK_MIN ?? 30)
const SEED = Number(process.env.VORNAK_SOAK_SEED ?? Date.now() % 10_000)
/** Between two faults, ms. */
const PAUSE_MS = [3000, 7000] as const
/** Runs whose disk is filled, by their place. */
const FULL_IN = [1, 5]
const FULL_MS = 20_000
const DISK_MB = 256
const LOAD_S = 55

const soaked: Plan = plan({
  name: 'Soaked',
  targetId: PORTAL_ID,
  rehearse: false,
  groups: [
    { letter: 'A', name: 'Students', journeyId: 'enrol', profile: hill(40, 4, LOAD_S, 3) },
    { letter: 'B', name: 'Lookers', journeyId: 'browse', profile: hill(20, 2, LOAD_S, 3) },
  ],
  locations: ['reyk', 'tavira'].map((region, i) => ({
    code: ['REY', 'TAV'][i]!,
    provider: 'nimbral',
    region,
    machineType: 'brisk-1',
    machines: 2,
  })),
  placement: { A: { REY: 5000, TAV: 'rest' }, B: { REY: 5000, TAV: 'rest' } },
  objectives: [{ metric: 'p95', step: 'Enrol', atMost: 1800 }],
  assumedUsersPerVcpu: 60,
  waitForMachinesMin: 3,
})
const MACHINES = ['REY-1', 'REY-2', 'TAV-1', 'TAV-2']
const sum = (counts: Record<string, number>) => Object.values(counts).reduce((a, b) => a + b, 0)
const wait = (ms: number) => new Promise(r => setTimeout(r, ms))

let house: House
let line: Cable
/** Where the data folder lies, when it can be filled. */
let disk: string | undefined
const began = Date.now()
const told: string[] = []
function tell(words: string): void {
  const at = new Date(Date.now() - began).toISOString().slice(11, 19)
  told.push(`${at} ${words}`)
  process.stdout.write(`${at} ${words}\n`)
}

beforeAll(async () => {
  disk = mkdtempSync(join(tmpdir(), 'vornak-disk-'))
  const mounted = spawnSync('mount', ['-t', 'tmpfs', '-o', `size=${DISK_MB}m`, 'tmpfs', disk])
  if (mounted.status !== 0) {
    rmSync(disk, { recursive: true })
    disk = undefined
  }
  line = await cable(() => house.ports.door)
  house = await House.build({
    plans: { soaked },
    journeys: DEMO_JOURNEYS,
    cloud: { regions: ['reyk', 'tavira'].map(name => ({ name, quota: 8, bootS: 0.6 })) },
    env: { VORNAK_GENERATORS_ADDRESS: `https://127.0.0.1:${line.port}`, VORNAK_LEAST_DISK_MB: '0' },
    ...(disk ? { within: disk } : {}),
  })
  await house.post('rails', {
    rails: { mostMachines: 20, mostUsers: 500, longestRunMin: 10, budgetPerRun: 50, budgetPerDay: 500, currency: 'EUR' },
  }, 'PUT')
}, 120_000)
afterAll(async () => {
  await house?.close()
  line?.close()
  if (disk) {
    spawnSync('umount', [disk])
    rmSync(disk, { recursive: true, force: true })
  }
}, 60_000)

/** Everything that can go wrong, each by itself; resolves when it is over. */
function faults(random: () => number): Record<string, () => Promise<void>> {
  const oneOf = () => MACHINES[Math.floor(random() * MACHINES.length)]!
  const signal = (machine: string, what: NodeJS.Signals): boolean => {
    try {
      process.kill(house.generatorPid(machine), what)
      return true
    }
    catch {
      return false
    }
  }
  const provider = (what: Partial<typeof NO_FAULTS>) =>
    fetch(`http://127.0.0.1:${house.ports.cloud}/faults`, { method: 'PUT', body: JSON.stringify(what) })
  return {
    async 'a generator is killed'() {
      const machine = oneOf()
      tell(`  ${machine} is killed${signal(machine, 'SIGKILL') ? '' : ': it is gone already'}`)
    },
    async 'a generator stands still'() {
      const machine = oneOf()
      const ms = Math.round(1000 + random() * 8000)
      tell(`  ${machine} stands still for ${ms} ms`)
      if (!signal(machine, 'SIGSTOP')) return
      await wait(ms)
      signal(machine, 'SIGCONT')
    },
    async 'links die'() {
      const ms = Math.round(1000 + random() * 6000)
      tell(`  a link dies for ${ms} ms, and new ones with it`)
      try {
        line.cut()
      }
      catch {
        return
      }
      await wait(ms)
      line.restore()
    },
    async 'the controller is killed'() {
      const ms = Math.round(random() * 3000)
      tell(`  the controller is killed, and started again after ${ms} ms`)
      await house.kill('vornak')
      await wait(ms)
      await house.startVornak()
    },
    async 'the provider answers rubbish'() {
      const what = { errors: Math.floor(random() * 3), html: Math.floor(random() * 3), unheard: 1, deafReleases: 1 }
      tell(`  the provider: ${JSON.stringify(what)}`)
      await provider(what)
    },
  }
}

/** Fills the disk to its last byte for a while. */
async function fill(ms: number): Promise<void> {
  const file = join(disk!, 'filler')
  tell(`  the disk is full for ${ms} ms`)
  const block = Buffer.alloc(1024 * 1024)
  for (const [bytes, flag] of [[block.length, 'a'], [4096, 'a'], [1, 'a']] as const)
    for (;;)
      try {
        writeFileSync(file, block.subarray(0, bytes), { flag })
      }
      catch {
        break
      }
  await wait(ms)
  rmSync(file)
  tell('  there is room again')
}

/** Processes of generators that are still there. */
function generatorsLeft(): number {
  return readdirSync('/proc').filter((pid) => {
    try {
      const environ = readFileSync(`/proc/${pid}/environ`, 'utf8')
      return environ.includes('VORNAK_MACHINE=') && environ.includes(`VORNAK_CONTROLLER=https://127.0.0.1:${line.port}`)
    }
    catch {
      return false
    }
  }).length
}

it('what is merged is what the target counted, less what the ledger declares, whatever goes wrong', async () => {
  tell(`seed ${SEED}, ${MINUTES} min${disk ? '' : '; no file system can be mounted: the disk is not filled'}`)
  const random = seededRandom(SEED)
  const ways = faults(random)
  const names = Object.keys(ways)
  const end = began + MINUTES * 60_000
  const totals = { runs: 0, settled: 0, faults: 0, received: 0, merged: 0, declared: 0 }
  for (let place = 0; Date.now() < end; place++) {
    const id = await house.startPlan('soaked')
    const over = house.runUntil(id, r => r.line.endedAt !== undefined, 'to end', 300_000)
    let run: RunView | undefined
    void over.then(
      (r) => {
        run = r
      },
      () => undefined,
    )
    await house.runUntil(id, r => r.line.state === 'loading' || r.line.endedAt !== undefined, 'to load', 200_000)
    const first = disk !== undefined && FULL_IN.includes(place) ? [() => fill(FULL_MS)] : []
    while (!run) {
      await wait(PAUSE_MS[0] + random() * (PAUSE_MS[1] - PAUSE_MS[0]))
      if (run) break
      totals.faults++
      await (first.shift() ?? ways[names[Math.floor(random() * names.length)]!]!)()
    }
    await over
    await fetch(`http://127.0.0.1:${house.ports.cloud}/faults`, { method: 'PUT', body: JSON.stringify(NO_FAULTS) })
    run = await house.ended(id)
    const [received, merged] = [sum(await house.receivedByStep(id)), sum(await house.mergedByStep(id))]
    const ledger = run.summary?.ledger
    const declared = ledger?.atMostUnknown ?? 0
    tell(`run ${id}: ${run.line.state}, “${run.line.sentence}”; counted ${received}, merged ${merged}, at most ${declared} unknown`)
    totals.runs++
    totals.settled += run.line.state === 'settled' ? 1 : 0
    totals.received += received
    totals.merged += merged
    totals.declared += declared
    expect(received - merged).toBeGreaterThanOrEqual(0)
    expect(received - merged).toBeLessThanOrEqual(declared)
    await until(async () => (await house.get<MeterView>('meter')).machinesOut === 0, 60_000, 'machines to be given back')
    await until(() => generatorsLeft() === 0, 30_000, 'generators to be gone')
  }
  const said = house.said.split('\n').filter(l => /unhandled|uncaught|fatal|heap/i.test(l))
  tell(`in all: ${JSON.stringify(totals)}`)
  if (said.length > 0) process.stdout.write(house.said)
  expect(said).toEqual([])
}, (MINUTES + 10) * 60_000)
