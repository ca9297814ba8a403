/**
 * `npm test`: installs what is missing, then lint, types, unit tests, browser tests. The last line is a count:
 * `N passed, N failed`.
 */
import { existsSync, readFileSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { buildPages, buildPrograms } from './build.mjs'
import { bringPackages, checkNode, DIST, installForTests, run } from './ground.mjs'
import { MEASURING, TIMED } from './timed-tests.mjs'

/** Asked alone so often at most, again only where this share of the CPU was stolen, and not later than this, ms. */
const MOST_ASKED = 3
const MUCH_STOLEN = 0.1
const LATE_MS = 60 * 60_000
/** Whoever has needed this long for what counts has no computer to measure on, ms. */
const TOO_SLOW_MS = 50 * 60_000
const BEGUN = Date.now()

checkNode()
// One comes from the package registry, the other from the system's: neither waits for the other.
const [{ compiled }] = await Promise.all([bringPackages(), installForTests()])
// All this needs no database driver, which may take minutes to compile.
await buildPrograms()
await buildPages()

let passed = 0
let failed = 0
let skipped = 0
/** What has failed, each in a line. */
const failures = []
/** Who failed, and how it is asked once more: `{ names, bad, ask }`, where `ask` resolves to whether it passes. */
const doubtful = []
const UNDECIDED = join(DIST, 'undecided-tests.txt')
rmSync(UNDECIDED, { force: true })
const check = (name, code) => {
  if (code === 0) passed++
  else {
    failed++
    failures.push(name)
    console.error(`${name} has failed.`)
  }
}
// Two at a time: they take a core each and measure nothing.
const checks = async (...list) => {
  for (const [name, ...command] of list) check(name, await run(...command))
}
await Promise.all([
  checks(['Lint', 'npx', ['eslint', '.']], ['Dependency rule', 'npm', ['run', '--silent', 'lint:imports']]),
  checks(
    ['Types of the programs', 'npx', ['tsc', '--noEmit', '-p', 'tsconfig.node.json']],
    ['Types of the app', 'npx', ['nuxt', 'typecheck']],
  ),
  compiled,
])

// What counts runs beside others: processes are waited for more than computed with. What times runs alone.
await jest('counting', ['--maxWorkers=3', '--testPathIgnorePatterns', 'tests/browser', ...TIMED, ...MEASURING])
await jest('timed', ['--runInBand', ...TIMED])
await browser('waiting', ['--workers=2'])

const isTooSlow = Date.now() - BEGUN > TOO_SLOW_MS
if (!isTooSlow) {
  await jest('measuring', ['--runInBand', ...MEASURING])
  await browser('measuring', [])
}

await askAgain()

// Those that hold times against others prove nothing on a computer whose neighbours take its CPU: told, and counted
// with neither.
const undecided = existsSync(UNDECIDED) ? readFileSync(UNDECIDED, 'utf8').trim().split('\n') : []
for (const line of undecided) console.log(`Not decided: ${line}`)
if (skipped > 0) console.log(`Skipped: ${skipped}`)
if (isTooSlow) console.log('Not measured, this computer being too slow today: see npm run measure.')
// Once more at the end, where one looks first.
for (const line of failures) console.log(`Failed: ${line}`)
console.log(`${passed - undecided.length} passed, ${failed} failed`)
process.exit(failed === 0 ? 0 : 1)

/** Runs some of the unit and end-to-end tests, and counts them. */
async function jest(name, options) {
  const file = join(DIST, `${name}-tests.json`)
  rmSync(file, { force: true })
  // A test that failed may have left a server open behind it, and Jest would wait for that for ever.
  await run('npx', ['jest', ...options, '--forceExit', '--json', `--outputFile=${file}`, '--silent=false'])
  count(name, file, r => ({
    good: r.numPassedTests,
    left: r.numPendingTests,
    bad: r.testResults
      .filter(suite => suite.status === 'failed')
      .map((suite) => {
        const tests = suite.assertionResults.filter(t => t.status === 'failed')
        return {
          names: tests.length > 0
            ? tests.map(t => `${t.fullName}: ${inShort(t.failureMessages[0])}`)
            : [`${suite.name}: ${inShort(suite.message)}`],
          // One whose file could not even be read is not better for being alone.
          ask: tests.length > 0 && (() => run('npx', ['jest', '--runInBand', '--forceExit', suite.name])),
        }
      }),
  }))
}

/** The same with one project of the browser tests. */
async function browser(project, options) {
  const file = join(DIST, `${project}-browser-tests.json`)
  rmSync(file, { force: true })
  const playwright = ['playwright', 'test', `--project=${project}`]
  await run('npx', [...playwright, ...options], { env: { ...process.env, PLAYWRIGHT_JSON_OUTPUT_FILE: file } })
  const ask = where => () => run('npx', [...playwright, '--workers=1', '--reporter=list', where])
  const failedIn = suite => [
    ...(suite.specs ?? []).filter(spec => !spec.ok).map(spec => ({
      names: [`${spec.title}: ${inShort(spec.tests[0]?.results[0]?.error?.message)}`],
      // One that builds on those before it can only be asked with them.
      ask: ask(isSerial(spec.file) ? spec.file : `${spec.file}:${spec.line}`),
    })),
    ...(suite.suites ?? []).flatMap(failedIn),
  ]
  count(`${project}, browser`, file, r => ({
    good: r.stats.expected,
    left: r.stats.skipped,
    bad: r.suites.flatMap(failedIn),
  }))
}

function isSerial(file) {
  return readFileSync(join('tests/browser', file), 'utf8').includes(`mode: 'serial'`)
}

/**
 * What failed is asked once more, alone: beside others, a test may have waited for a CPU that it did not get. Where
 * neighbours of this computer took its CPU meanwhile, that is true of being alone, too: then up to twice more, while
 * there is time. Who passes then is told by name and counted as passed. More than two dozen are no accident.
 */
async function askAgain() {
  const many = doubtful.length > 24
  for (const { names, ask } of doubtful) {
    if (ask && !many && (await passesAlone(ask))) {
      passed += names.length
      for (const name of names) console.log(`Passed only when asked again, alone: ${name}`)
    }
    else {
      failed += names.length
      failures.push(...names)
    }
  }
}

async function passesAlone(ask) {
  for (let asked = 1; ; asked++) {
    const before = cpuTicks()
    if ((await ask()) === 0) return true
    const stolen = stolenSince(before)
    if (asked === MOST_ASKED || stolen < MUCH_STOLEN || Date.now() - BEGUN > LATE_MS) return false
    console.log(`Asked once more: ${(stolen * 100).toFixed(0)} % of the CPU was stolen meanwhile.`)
  }
}

/** CPU of this computer so far, and what neighbours took of it: proc(5), /proc/stat, in ticks. */
function cpuTicks() {
  const ticks = /^cpu +(.*)$/m.exec(readFileSync('/proc/stat', 'utf8'))[1].split(' ').slice(0, 8).map(Number)
  return { stolen: ticks[7], all: ticks.reduce((sum, n) => sum + n, 0) }
}

function stolenSince(before) {
  const now = cpuTicks()
  return (now.stolen - before.stolen) / Math.max(1, now.all - before.all)
}

/** The first words of a failure, without colours. */
function inShort(message = 'nothing was said') {
  // eslint-disable-next-line no-control-regex -- colours begin with one
  return message.replaceAll(/\u001B\[[\d;]*m/g, '').split('\n').filter(Boolean).slice(0, 5).join(' · ').slice(0, 400)
}

/** Adds a runner's own count; a runner that left none has failed. */
function count(name, file, read) {
  try {
    const { good, left, bad } = read(JSON.parse(readFileSync(file, 'utf8')))
    passed += good
    skipped += left
    doubtful.push(...bad)
  }
  catch (error) {
    failed++
    failures.push(`${name}: it left no count (${error.message})`)
  }
}
