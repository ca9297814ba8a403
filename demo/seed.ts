/**
 * Makes the demo's database: `node seed-demo.mjs DATA-FOLDER PORTAL-ADDRESS [library]`. The library, and two earlier
 * runs by a simulated fleet: one that held and one that broke; HOST_PORTS (a,b,c) adds a private site with hosts
 * there, MAIL_PORT a mail server.
 * They pass through the same coordinator, protocol and merge as every run, in fast time.
 */
import { mkdirSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { fastClock } from '../control/clock'
import type { Coordinator } from '../control/coordinator'
import { programsIn } from '../main/programs'
import { serve } from '../main/serve'
import { World } from '../simfleet/world'
import { DEMO_HISTORY, fillHosts, fillLibrary } from './library'
import { simulatedCloud } from './simulated-cloud'
import { freePort } from '../scripts/ports.cjs'

/** How much faster than life the history is made: less so where the computer could not keep up. */
const FACTORS = [40, 20, 10]
/** How often the world moves on, ms of real time. */
const MOVE_MS = 4

const SERVICE_MS: Record<string, number> = { Timetable: 22, Module: 30, Enrol: 75, Approve: 40 }

/** Mails come from it. */
const DEMO_SENDER = 'vornak@ostervik.example'

/** A machine of the history came too late for the clock it was made by: the run is whole, its making was not. */
class TooHurried extends Error {}

/** What a run of such a history is said to have then. */
const TOO_LATE = new Set(['generator-lost', 'generator-absent', 'ledger-loss'])

/**
 * @param history also the two earlier runs, `factor` times as fast as life @param mailPort of the mail server; 0: there
 * is none @throws TooHurried
 */
async function seed(
  factor: number,
  dataFolder: string,
  portal: string,
  history: boolean,
  hostPorts: readonly number[],
  mailPort: number,
): Promise<void> {
  // Yesterday at 15:00, in this machine's zone.
  const clock = fastClock(new Date(Date.now() - 86_400_000).setHours(15, 0, 0, 0), factor)
  const world = new World({
    workers: 7,
    mostWaiting: 400,
    serviceMs: step => SERVICE_MS[step] ?? 20,
    sigma: 0.55,
    seed: 8,
  })
  const cloud = simulatedCloud(clock, world)
  const serving = await serve(
    {
      host: '127.0.0.1',
      port: await freePort(),
      generators: { host: '127.0.0.1', port: 0 },
      /* two who seed at once must not meet */ dataFolder,
      cloudAddress: '',
      cloudKey: '',
      keyFile: `${dataFolder}.key`,
      dailyBudget: 20,
      selfTestS: 0,
      allowedOrigins: [],
    },
    (_, response) => void response.writeHead(503).end(),
    programsIn(fileURLToPath(new URL('.', import.meta.url))),
    { clock, providers: [cloud], targetsAreSilent: true },
  )
  const moving = setInterval(() => world.advance(clock.now()), MOVE_MS)
  await fillLibrary(serving.coordinator, portal, Date.now())
  if (mailPort > 0)
    serving.coordinator.mail.setServer({ host: '127.0.0.1', port: mailPort, security: 'none', from: DEMO_SENDER }, undefined)
  if (hostPorts.length > 0)
    writeFileSync(
      join(dataFolder, 'private-hosts.json'),
      JSON.stringify(fillHosts(serving.coordinator, hostPorts, Date.now())),
    )
  try {
    for (const planId of history ? DEMO_HISTORY : []) await runToEnd(serving.coordinator, planId)
  }
  finally {
    clearInterval(moving)
    cloud.close()
    await serving.close()
  }
}

/** Starts a plan and waits until its run has ended and every machine is gone. */
async function runToEnd(coordinator: Coordinator, planId: string): Promise<void> {
  const { id } = await coordinator.start(planId)
  await new Promise<void>((resolve, reject) => {
    const look = () => {
      const { line, summary } = coordinator.runs.view(id)
      if (line.endedAt === undefined || coordinator.meter().machinesOut > 0) return
      coordinator.news.live.off('live', look)
      const trouble = summary?.findings.find(f => TOO_LATE.has(f.code))?.sentence
      if (line.state !== 'settled' || trouble) return reject(new TooHurried(`run ${id}: ${trouble ?? line.sentence}`))
      console.log(`  run ${id}: ${line.question} ${line.sentence}`)
      resolve()
    }
    coordinator.news.live.on('live', look)
  })
}

const [dataFolder, portal, only] = process.argv.slice(2)
if (!dataFolder || !portal) {
  console.error('Say where: node seed-demo.mjs DATA-FOLDER PORTAL-ADDRESS')
  process.exit(64)
}
const hostPorts = (process.env.HOST_PORTS ?? '').split(',').filter(Boolean).map(Number)
mkdirSync(dataFolder, { recursive: true })
const before = new Set(readdirSync(dataFolder))
for (const [tried, factor] of FACTORS.entries()) {
  try {
    await seed(factor, dataFolder, portal, only !== 'library', hostPorts, Number(process.env.MAIL_PORT ?? 0))
    break
  }
  catch (error) {
    if (!(error instanceof TooHurried) || tried === FACTORS.length - 1) throw error
    console.log(`  ${error.message} Once more, slower.`)
    for (const name of readdirSync(dataFolder).filter(n => !before.has(n)))
      rmSync(join(dataFolder, name), { recursive: true })
    rmSync(`${dataFolder}.key`, { force: true })
  }
}
