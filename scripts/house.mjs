/** A demo house on ports of its own, for browser tests and screenshots: seeded, started, ended. */
import { spawn } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { copyHistory, seedLibrary } from './demo-history.mjs'
import { DIST } from './ground.mjs'
import { freePort, listens } from './ports.cjs'

/** Key of the demo's account at the cloud. */
export const CLOUD_KEY = 'made-up-for-the-demo'

/**
 * What the stand-ins are started with. @param folder of the demo's data, seeded @returns program, arguments and
 * environment of each
 */
export function standins(folder, ports, cloudSettings = {}) {
  const cloud = join(folder, 'nimbral-cloud.json')
  writeFileSync(cloud, JSON.stringify({ keys: [CLOUD_KEY], ...cloudSettings }))
  // One replica more once it is busy: so that one sees it.
  const portal = join(folder, 'enrolment-portal.json')
  writeFileSync(portal, JSON.stringify({ mostReplicas: 3, scaleUpAtBusy: 0.5, scaleUpAfterMs: 8000 }))
  return [
    ['enrolment-portal', [portal], { PORT: String(ports.portal) }],
    ['nimbral-cloud', [join(DIST, 'generator.mjs'), cloud], { PORT: String(ports.cloud) }],
    ['private-hosts', [join(folder, 'private-hosts'), join(folder, 'private-hosts.json')], {}],
    ['mailbox', [], { PORT: String(ports.mailbox), SMTP_PORT: String(ports.mail) }],
  ]
}

/**
 * Seeds a folder and starts portal, cloud and Vornak. @param history with the demo's earlier runs, or its library alone
 * @param cloud settings of the cloud that differ @returns where they are, and how to end one or all of them
 */
export async function openHouse({ history = true, cloud: cloudSettings = {}, env: envOf } = {}) {
  const folder = mkdtempSync(join(tmpdir(), 'vornak-house-'))
  const [vornak, door, portal, cloud, mail, mailbox, ...hosts] = await Promise.all(Array.from({ length: 9 }, freePort))
  if (history) copyHistory(folder)
  seedLibrary(folder, `http://127.0.0.1:${portal}`, { HOST_PORTS: hosts.join(','), MAIL_PORT: String(mail) })
  const children = {}
  const start = (name, args, env) => {
    children[name] = spawn(process.execPath, [join(DIST, `${name}.mjs`), ...args], {
      stdio: ['ignore', 'ignore', 'inherit'],
      env: { ...process.env, ...env },
    })
  }
  /** Waits until a program answers; what dies meanwhile is said at once. */
  const answers = async (name, isThere) => {
    const end = Date.now() + 20_000
    while (!(await isThere())) {
      if (children[name].exitCode !== null)
        throw new Error(`${name} ended with ${children[name].exitCode} while it started`)
      if (Date.now() > end) throw new Error(`${name} does not answer`)
      await new Promise(r => setTimeout(r, 100))
    }
  }
  const env = await envOf?.(`http://127.0.0.1:${vornak}`)
  const startVornak = async () => {
    start('main', [], {
      VORNAK_PORT: String(vornak),
      VORNAK_GENERATORS_PORT: String(door),
      VORNAK_DATA: folder,
      VORNAK_CLOUD: `http://127.0.0.1:${cloud}`,
      VORNAK_CLOUD_KEY: CLOUD_KEY,
      VORNAK_SELF_TEST_S: '1',
      ...env,
    })
    await answers('main', () =>
      fetch(`http://127.0.0.1:${vornak}/api/me`).then(
        r => r.ok,
        () => false,
      ),
    )
  }
  for (const standin of standins(folder, { portal, cloud, mail, mailbox }, cloudSettings)) start(...standin)
  await answers('enrolment-portal', () => listens(portal))
  await answers('nimbral-cloud', () => listens(cloud))
  await answers('mailbox', () => listens(mail))
  for (const port of hosts) await answers('private-hosts', () => listens(port))
  await startVornak()
  const end = async (name, signal = 'SIGTERM') => {
    const child = children[name]
    if (!child || child.exitCode !== null || child.signalCode !== null) return
    const gone = new Promise(r => child.once('exit', r))
    child.kill(signal)
    await gone
  }
  return {
    url: `http://127.0.0.1:${vornak}`,
    portal: `http://127.0.0.1:${portal}`,
    cloud: `http://127.0.0.1:${cloud}`,
    mailbox: `http://127.0.0.1:${mailbox}`,
    startVornak,
    end,
    /**
     * A machine at the cloud that carries this house's label, and that nobody here knows: as if its store had been
     * lost.
     */
    async forgetMachine() {
      const { default: Database } = await import('better-sqlite3')
      const { value: label } = new Database(join(folder, 'vornak.db'), { readonly: true })
        .prepare('SELECT value FROM facts WHERE name = ?')
        .get('installation')
      const body = {
        region: 'osaki',
        type: 'brisk-2',
        name: `${label}-r99-osa-1`,
        endsAfterS: 900,
        attached: { diskGb: 10 },
      }
      await fetch(`http://127.0.0.1:${cloud}/v1/machines`, {
        method: 'POST',
        headers: { 'content-type': 'application/json', authorization: `Bearer ${CLOUD_KEY}` },
        body: JSON.stringify(body),
      })
    },
    async close() {
      for (const name of Object.keys(children).reverse()) await end(name)
      rmSync(folder, { recursive: true, force: true })
      rmSync(`${folder}.key`, { force: true })
    },
  }
}
