/**
 * `npm test`: installs what is missing, then lint, types, unit tests, browser tests. The last line is a count:
 * `N passed, N failed`.
 */
import { existsSync, readFileSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { buildPages, buildPrograms } from './build.mjs'
import { bringPackages, checkNode, DIST, installForTests, ROOT, run, runTool } from './ground.mjs'
import { TestCount } from './test-count.mjs'
import { COMPUTING, MEASURING, MEASURING_IN_BROWSER, TIMED, WAITING } from './test-lanes.mjs'

/** What failed is not asked once more later than this, ms. */
const LATE_MS = 60 * 60_000
/** A computer that has needed this long for what counts is too slow to measure on, ms. */
const TOO_SLOW_MS = 40 * 60_000
const BEGUN = Date.now()
const UNDECIDED = join(DIST, 'undecided-tests.txt')

/** By the compiler that is a program of the machine: a fifth of the CPU of the other, which types of pages need. */
function checkPrograms() {
  const compiler = join(ROOT, 'node_modules', 'typescript-native', 'bin', 'tsc')
  return run(process.execPath, [compiler, '--noEmit', '-p', 'tsconfig.node.json'])
}

checkNode()
// One comes from the package registry, the other from the system's: neither waits for the other.
const [{ compiled }] = await Promise.all([bringPackages(), installForTests()])
rmSync(UNDECIDED, { force: true })
await buildPrograms()

const count = new TestCount(BEGUN + LATE_MS)
/** What was done before it, and how long it took: told at the end, where one looks for what could be quicker. */
const stages = []
async function stage(name, does) {
  const began = Date.now()
  await does()
  stages.push(`${name} ${Math.round((Date.now() - began) / 1000)} s`)
}

const built = Promise.all([stage('pages', buildPages), compiled])
// Once pages are built, tests that count wait for real processes: five at a time leave much of two cores idle. Beside
// them, what computes.
await Promise.all([
  built.then(() => stage('waiting', () => count.jest('waiting', ['--maxWorkers=5', ...WAITING]))),
  (async () => {
    await stage('computing', () => count.jest('computing', ['--maxWorkers=1', ...COMPUTING]))
    await stage('types', () => count.check('Types of the programs', checkPrograms))
    await stage('law', () => count.check('Dependency rule', () => run('npm', ['run', '--silent', 'lint:imports'])))
    // Both read what Nuxt makes of the pages, which its build makes too.
    await built
    await runTool('nuxt', ['prepare'])
    await stage('lint', () => count.check('Lint', () => runTool('eslint', ['.'])))
    // All of it at once: app and server share most of what is read.
    await stage('types of pages', () =>
      count.check('Types of app and server', () => runTool('vue-tsc', ['--noEmit', '-p', '.nuxt/tsconfig.json'])))
  })(),
])
await stage('browser', () => count.browser('waiting', ['--workers=2']))
// What times runs alone.
await stage('timed', () => count.jest('timed', ['--runInBand', ...TIMED]))

const isTooSlow = Date.now() - BEGUN > TOO_SLOW_MS
if (!isTooSlow)
  await stage('measuring', async () => {
    await count.jest('measuring', ['--runInBand', ...MEASURING])
    await count.browser('measuring', MEASURING_IN_BROWSER)
  })

await stage('asked again', () => count.askAgain())

// Those that hold times against others prove nothing on a computer whose neighbours take its CPU: told, and counted
// with neither.
const undecided = existsSync(UNDECIDED) ? readFileSync(UNDECIDED, 'utf8').trim().split('\n') : []
console.log(`Took ${Math.round((Date.now() - BEGUN) / 1000)} s: ${stages.join(', ')}.`)
for (const line of undecided) console.log(`Not decided: ${line}`)
if (count.skipped > 0) console.log(`Skipped: ${count.skipped}`)
if (isTooSlow) console.log('Not measured, this computer being too slow today: see npm run measure.')
// Once more at the end, where one looks first.
for (const line of count.failures) console.log(`Failed: ${line}`)
console.log(`${count.passed - undecided.length} passed, ${count.failed} failed`)
process.exit(count.failed === 0 ? 0 : 1)
