/**
 * The demo's data with its earlier runs, made once for a build and a day: simulating those runs takes half a minute of
 * CPU, and every house of the browser tests wants them.
 */
import { spawnSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { cpSync, existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, renameSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { DIST } from './ground.mjs'

const ROOM = join(DIST, 'demo-history')
const PROGRAM = join(DIST, 'seed-demo.mjs')
/** As in the demo; the runs are simulated, and nothing is asked there. */
const PORTAL = 'http://127.0.0.1:4710'

/** Seeds a folder with the demo's library, and with what a house has of its own: its portal, its hosts, its mail. */
export function seedLibrary(folder, portal, env) {
  seed([folder, portal, 'library'], env)
}

/** Fills an empty folder with the demo's data and its earlier runs; {@link seedLibrary} then makes it a house's own. */
export function copyHistory(folder) {
  const made = madeToday()
  cpSync(join(made, 'data'), folder, { recursive: true })
  cpSync(join(made, 'data.key'), `${folder}.key`)
}

/** The runs are yesterday's, and are made as the programs make them now. */
function madeToday() {
  const digest = createHash('sha256').update(readFileSync(PROGRAM)).update(new Date().toDateString()).digest('hex')
  const made = join(ROOM, digest.slice(0, 16))
  if (existsSync(made)) return made
  mkdirSync(ROOM, { recursive: true })
  const old = readdirSync(ROOM).filter(name => !name.startsWith('making-'))
  const making = mkdtempSync(join(ROOM, 'making-'))
  seed([join(making, 'data'), PORTAL])
  try {
    renameSync(making, made)
  }
  catch {
    // Another house was quicker; both have made the same.
    rmSync(making, { recursive: true })
  }
  for (const name of old) rmSync(join(ROOM, name), { recursive: true, force: true })
  return made
}

function seed(args, env = {}) {
  const { status, stderr } = spawnSync(process.execPath, [PROGRAM, ...args], {
    encoding: 'utf8',
    env: { ...process.env, ...env },
  })
  if (status !== 0) throw new Error(`the demo’s data could not be made: ${stderr}`)
}
