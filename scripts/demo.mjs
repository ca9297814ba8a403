/**
 * `npm run demo`: installs what is missing, builds what is stale, makes the demo's database, starts the stand-ins and
 * Vornak, ends cleanly on Ctrl-C.
 */
import { spawn } from 'node:child_process'
import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { buildPages, buildPrograms } from './build.mjs'
import { bringPackages, checkNode, DIST, giveUp, ROOT, run } from './ground.mjs'
import { CLOUD_KEY, standins } from './house.mjs'
import { isFree } from './ports.cjs'

const vornak = Number(process.env.VORNAK_PORT ?? 4700)
const PORTS = {
  vornak,
  door: Number(process.env.VORNAK_GENERATORS_PORT ?? vornak + 1),
  portal: 4710,
  cloud: 4720,
  'ovk-a': 4731,
  'ovk-b': 4732,
  'ovk-c': 4733,
  mail: 4740,
  mailbox: 4741,
}
const WHERE_TO_CHOOSE = {
  vornak: ', or choose another with VORNAK_PORT',
  door: ', or choose another with VORNAK_GENERATORS_PORT',
}
const DATA = process.env.VORNAK_DATA ?? join(ROOT, '.data', 'demo')
const portal = `http://127.0.0.1:${PORTS.portal}`

checkNode()
// The pages need no database driver, which takes minutes to compile.
const { compiled } = await bringPackages()
await buildPrograms()
await Promise.all([buildPages(), compiled])
for (const [name, port] of Object.entries(PORTS)) {
  if (!(await isFree(port)))
    giveUp(
      `Port ${port} (${name}) is in use: end the program that holds it${WHERE_TO_CHOOSE[name] ?? ' — perhaps another demo'}.`,
    )
}
if (!existsSync(join(DATA, 'vornak.db'))) {
  console.log('Making the demo’s history…')
  if (
    (await run(process.execPath, [join(DIST, 'seed-demo.mjs'), DATA, portal], {
      env: { ...process.env, HOST_PORTS: [PORTS['ovk-a'], PORTS['ovk-b'], PORTS['ovk-c']].join(','), MAIL_PORT: String(PORTS.mail) },
    })) !== 0
  )
    giveUp('The demo’s database could not be made; see above.')
}

const children = []
let ending = false
for (const standin of standins(DATA, PORTS)) start(...standin)
start('main', [], {
  VORNAK_PORT: String(PORTS.vornak),
  VORNAK_GENERATORS_PORT: String(PORTS.door),
  VORNAK_DATA: DATA,
  VORNAK_CLOUD: `http://127.0.0.1:${PORTS.cloud}`,
  VORNAK_CLOUD_KEY: CLOUD_KEY,
})
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => void end(0))

function start(program, args, env) {
  const child = spawn(process.execPath, [join(DIST, `${program}.mjs`), ...args], {
    cwd: ROOT,
    stdio: 'inherit',
    env: { ...process.env, ...env },
    detached: true,
  })
  child.on('exit', (code) => {
    if (ending) return
    console.error(`${program} has ended (${code}); the demo ends too.`)
    void end(1)
  })
  children.push(child)
}

/** Ends what was started, the last first; each gives back what it holds. */
async function end(code) {
  if (ending) return
  ending = true
  for (const child of [...children].reverse()) {
    if (child.exitCode !== null) continue
    const gone = new Promise(resolve => child.once('exit', resolve))
    child.kill('SIGTERM')
    const late = setTimeout(() => child.kill('SIGKILL'), 8000)
    await gone
    clearTimeout(late)
  }
  process.exit(code)
}
