/**
 * What every script stands on: checks of the machine, installation of what is missing, builds of what is stale. Needs
 * no package itself.
 */
import { spawn, spawnSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, realpathSync, statSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'

export const ROOT = dirname(dirname(fileURLToPath(import.meta.url)))
export const DIST = join(ROOT, 'dist')

/** Says why and ends. */
export function giveUp(sentence) {
  console.error(sentence)
  process.exit(1)
}

export function checkNode() {
  const [major, minor] = process.versions.node.split('.').map(Number)
  if (major < 20 || (major === 20 && minor < 19))
    giveUp(`Vornak needs Node 20.19 or newer; this is ${process.versions.node}.`)
}

/** Runs a command to its end, showing what it prints. @returns its exit code */
export function run(command, args, options = {}) {
  return new Promise((resolve) => {
    const child = spawn(command, args, { cwd: ROOT, stdio: 'inherit', ...options })
    child.on('error', error => giveUp(`${command} could not be started: ${error.message}`))
    child.on('exit', code => resolve(code ?? 1))
  })
}

/**
 * Compilers, checkers and test runners make much that is forgotten at once. With this much room for it, MB, they are
 * done in two thirds to nine tenths of the CPU: less of it is moved about before it is forgotten.
 */
const ROOM_FOR_NEW_MB = 64

/** Runs a program of an installed package to its end. @param name as the package calls it @returns its exit code */
export function runTool(name, args, options) {
  const program = realpathSync(join(ROOT, 'node_modules', '.bin', name))
  return run(process.execPath, [`--max-semi-space-size=${ROOM_FOR_NEW_MB}`, program, ...args], options)
}

const STAMP = join(ROOT, 'node_modules', '.vornak-lock')
const DRIVER = join(ROOT, 'node_modules/better-sqlite3/build/Release/better_sqlite3.node')

/** Installs the packages the lock file names, when they are missing or another lock file's. */
export async function installPackages() {
  const { compiled } = await bringPackages()
  await compiled
}

/**
 * Like {@link installPackages}, but comes back when everything is there that can be used without the database driver.
 * @returns `compiled`: when that is there too
 */
export async function bringPackages() {
  const lock = createHash('sha256')
    .update(readFileSync(join(ROOT, 'package-lock.json')))
    .digest('hex')
  if (existsSync(STAMP) && readFileSync(STAMP, 'utf8') === lock) return { compiled: Promise.resolve() }
  for (const tool of ['python3', 'make', 'g++']) {
    if (spawnSync(tool, ['--version'], { stdio: 'ignore' }).status !== 0)
      giveUp(`The database driver is compiled here and needs ${tool}. On Debian: apt-get install python3 make g++`)
  }
  console.log('Installing packages; the database driver is compiled, which takes a few minutes…')
  if ((await run('npm', ['ci', '--ignore-scripts', '--no-audit', '--no-fund', '--loglevel=error'])) !== 0)
    giveUp('The packages could not be installed; see above.')
  return { compiled: compilePackages(lock) }
}

async function compilePackages(lock) {
  if ((await run('npm', ['rebuild', '--loglevel=error'])) !== 0 || !existsSync(DRIVER))
    giveUp('The database driver could not be compiled; see above.')
  writeFileSync(STAMP, lock)
}

/** Chromium as it is without a window: the same engine for a third less of the CPU. */
export const CHROMIUM = '/usr/bin/chromium-headless-shell'

/** Debian's SSH server: private hosts of tests are real ones. */
export const SSHD = '/usr/sbin/sshd'

/** A metrics server: sources of figures are tried on a real one. */
const METRICS_SERVER = '/usr/bin/prometheus'

/** A mail server: mails are sent to a real one. */
export const MAIL_SERVER = '/usr/sbin/exim4'

/** Chromium for browser tests and screenshots, from the system's packages. */
export function installChromium() {
  return installSystem({ 'chromium-headless-shell': CHROMIUM })
}

/** What tests need of the system, from its packages. */
export function installForTests() {
  return installSystem({
    'chromium-headless-shell': CHROMIUM,
    'openssh-server': SSHD,
    curl: '/usr/bin/curl',
    prometheus: METRICS_SERVER,
    'poppler-utils': '/usr/bin/pdftotext',
    'exim4-daemon-light': MAIL_SERVER,
  })
}

/** @param wanted a file of each package, by which it is known to be there */
async function installSystem(wanted) {
  const missing = Object.keys(wanted).filter(name => !existsSync(wanted[name]))
  if (missing.length === 0) return
  const apt = spawnSync('apt-get', ['--version'], { stdio: 'ignore' }).status === 0 && process.getuid?.() === 0
  if (!apt)
    giveUp(
      `Tests need ${missing.map(n => `${n} (${wanted[n]})`).join(', ')}. On Debian: apt-get install ${missing.join(' ')}`,
    )
  console.log(`Installing ${missing.join(', ')}…`)
  await run('apt-get', ['update', '-qq'])
  if (
    (await run('apt-get', ['install', '-y', '-qq', ...missing], {
      stdio: ['ignore', 'ignore', 'inherit'],
      env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
    })) !== 0 ||
    missing.some(n => !existsSync(wanted[n]))
  ) {
    giveUp(`${missing.join(', ')} could not be installed; install by hand.`)
  }
}

/** Digest of every file below these folders, by path and content. */
function digestOf(folders) {
  const hash = createHash('sha256')
  const visit = (path) => {
    if (!existsSync(path)) return
    if (statSync(path).isDirectory()) {
      for (const name of readdirSync(path).sort()) visit(join(path, name))
      return
    }
    hash.update(path.slice(ROOT.length)).update(readFileSync(path))
  }
  for (const folder of folders) visit(join(ROOT, folder))
  return hash.digest('hex')
}

/** Does a piece of work unless it was done for exactly these sources. */
export async function unlessFresh(name, folders, work) {
  mkdirSync(DIST, { recursive: true })
  const stamp = join(DIST, `.${name}-stamp`)
  const digest = digestOf(folders)
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === digest) return
  await work()
  writeFileSync(stamp, digest)
}
