/**
 * `npm test`: installs what is missing, then lint, types, unit tests, browser tests. The last line is a count:
 * `N passed, N failed`.
 */
import { existsSync, readFileSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { buildPages, buildPrograms } from './build.mjs'
import { bringPackages, checkNode, DIST, installForTests, run } from './ground.mjs'

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

// Files that compute, and files that wait for processes, run two at a time. Those that measure run one by one: two
// cores are all there may be.
const MEASURING = [
  'tests/control/private-hosts',
  'tests/end-to-end/calibration',
  'tests/end-to-end/fleet-faults',
  'tests/end-to-end/link-faults',
  'tests/end-to-end/networks',
  'tests/end-to-end/peak-shift',
  'tests/standins/cpu-share',
  'tests/standins/queueing',
  'tests/generator/drives',
  'tests/generator/load',
  'tests/generator/shaper',
]
await jest('waiting', ['--maxWorkers=2', '--testPathIgnorePatterns', 'tests/browser', ...MEASURING])
await jest('measuring', ['--runInBand', ...MEASURING])

await browser('waiting', ['--workers=2'])
await browser('measuring', [])

// Those that hold times against others prove nothing on a computer whose neighbours take its CPU: told, and counted
// with neither.
const undecided = existsSync(UNDECIDED) ? readFileSync(UNDECIDED, 'utf8').trim().split('\n') : []
for (const line of undecided) console.log(`Not decided: ${line}`)
if (skipped > 0) console.log(`Skipped: ${skipped}`)
// Once more at the end, where one looks first.
for (const line of failures) console.log(`Failed: ${line}`)
console.log(`${passed - undecided.length} passed, ${failed} failed`)
process.exit(failed === 0 ? 0 : 1)

/** Runs some of the unit and end-to-end tests, and counts them. */
async function jest(name, options) {
  const file = join(DIST, `${name}-tests.json`)
  rmSync(file, { force: true })
  await run('npx', ['jest', ...options, '--json', `--outputFile=${file}`, '--silent=false'])
  count(name, file, r => ({
    good: r.numPassedTests,
    bad: r.numFailedTests + r.numRuntimeErrorTestSuites,
    left: r.numPendingTests,
    said: r.testResults.flatMap(suite =>
      suite.assertionResults.length === 0 && suite.status === 'failed'
        ? [`${suite.name}: ${inShort(suite.message)}`]
        : suite.assertionResults
            .filter(t => t.status === 'failed')
            .map(t => `${t.fullName}: ${inShort(t.failureMessages[0])}`),
    ),
  }))
}

/** The same with one project of the browser tests. */
async function browser(project, options) {
  const file = join(DIST, `${project}-browser-tests.json`)
  rmSync(file, { force: true })
  await run('npx', ['playwright', 'test', `--project=${project}`, ...options], {
    env: { ...process.env, PLAYWRIGHT_JSON_OUTPUT_FILE: file },
  })
  const failedIn = suite => [
    ...(suite.specs ?? [])
      .filter(spec => !spec.ok)
      .map(spec => `${spec.title}: ${inShort(spec.tests[0]?.results[0]?.error?.message)}`),
    ...(suite.suites ?? []).flatMap(failedIn),
  ]
  count(`${project}, browser`, file, r => ({
    good: r.stats.expected,
    bad: r.stats.unexpected + r.stats.flaky,
    left: r.stats.skipped,
    said: r.suites.flatMap(failedIn),
  }))
}

/** The first words of a failure, without colours. */
function inShort(message = 'nothing was said') {
  // eslint-disable-next-line no-control-regex -- colours begin with one
  return message.replaceAll(/\u001B\[[\d;]*m/g, '').split('\n').filter(Boolean).slice(0, 5).join(' · ').slice(0, 400)
}

/** Adds a runner's own count; a runner that left none has failed. */
function count(name, file, read) {
  try {
    const { good, bad, left, said } = read(JSON.parse(readFileSync(file, 'utf8')))
    passed += good
    failed += bad
    skipped += left
    failures.push(...said)
  }
  catch (error) {
    failed++
    failures.push(`${name}: it left no count (${error.message})`)
  }
}
