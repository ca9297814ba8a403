/**
 * Makes the demo's database: `node seed-demo.mjs DATA-FOLDER PORTAL-ADDRESS [library]`. The library, and two earlier
 * runs by a simulated fleet: one that held and one that broke; HOST_PORTS (a,b,c) adds a private site with hosts
 * there, MAIL_PORT a mail server.
 * They pass through the same coordinator, protocol and merge as every run, in fast time.
 */
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { fastClock } from '../control/clock'
import type { Coordinator } from '../control/coordinator'
import { programsIn } from '../main/programs'
import { serve } from '../main/serve'
import { World } from '../simfleet/world'
import { DEMO_HISTORY, fillHosts, fillLibrary } from './library'
import { simulatedCloud } from './simulated-cloud'
import { freePort } from './free-port'

/** How much faster than life the history is made. */
const FACTOR = 40
/** How often the world moves on, ms of real time. */
const MOVE_MS = 4

const SERVICE_MS: Record<string, number> = { Timetable: 22, Module: 30, Enrol: 75, Approve: 40 }

/** Mails come from it. */
const DEMO_SENDER = 'vornak@ostervik.example'

/** @param history also the two earlier runs @param mailPort of the mail server; 0: there is none */
async function seed(
  dataFolder: string,
  portal: string,
  history: boolean,
  hostPorts: readonly number[],
  mailPort: number,
): Promise<void> {
  // Yesterday at 15:00, in this machine's zone.
  const clock = fastClock(new Date(Date.now() - 86_400_000).setHours(15, 0, 0, 0), FACTOR)
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
  for (const planId of history ? DEMO_HISTORY : []) await runToEnd(serving.coordinator, planId)
  clearInterval(moving)
  cloud.close()
  await serving.close()
}

/** Starts a plan and waits until its run has ended and every machine is gone. */
async function runToEnd(coordinator: Coordinator, planId: string): Promise<void> {
  const { id } = await coordinator.start(planId)
  await new Promise<void>((resolve, reject) => {
    const look = () => {
      const { line } = coordinator.runs.view(id)
      if (line.state === 'failed') return reject(new Error(`run ${id}: ${line.sentence}`))
      if (line.endedAt === undefined || coordinator.meter().machinesOut > 0) return
      coordinator.news.live.off('live', look)
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
await seed(
  dataFolder,
  portal,
  only !== 'library',
  (process.env.HOST_PORTS ?? '').split(',').filter(Boolean).map(Number),
  Number(process.env.MAIL_PORT ?? 0),
)
