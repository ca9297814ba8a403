/** `npm test`: installs what is missing, then lint, types, unit tests, browser tests. The last line counts: `N passed, N failed`. */
import { readFileSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { buildPages, buildPrograms } from './build.mjs'
import { checkNode, DIST, installForTests, installPackages, run } from './ground.mjs'

checkNode()
// One comes from the package registry and is compiled, the other from the system's: neither waits for the other.
await Promise.all([installPackages(), installForTests()])
await buildPrograms()
await buildPages()

let passed = 0
let failed = 0
const check = (name, code) => {
  if (code === 0) passed++
  else {
    failed++
    console.error(`${name} has failed.`)
  }
}
// Two at a time: they take a core each and measure nothing.
const checks = async (...list) => { for (const [name, ...command] of list) check(name, await run(...command)) }
await Promise.all([
  checks(['Lint', 'npx', ['eslint', '.']], ['Dependency rule', 'npx', ['depcruise', '--config', '.dependency-cruiser.cjs', '--output-type', 'err', 'api', 'app', 'bench', 'control', 'core', 'demo', 'generator', 'main', 'protocol', 'server', 'simfleet', 'standins']]),
  checks(['Types of the programs', 'npx', ['tsc', '--noEmit', '-p', 'tsconfig.node.json']], ['Types of the app', 'npx', ['nuxt', 'typecheck']]),
])

// What only computes runs two files at a time. The others one by one: several measure time, and two cores are all there may be.
const COMPUTING = ['tests/core', 'tests/app', 'tests/protocol']
await jest('computing', [...COMPUTING, '--maxWorkers=2'])
await jest('living', ['--runInBand', '--testPathIgnorePatterns', ...COMPUTING])

const browser = join(DIST, 'browser-tests.json')
rmSync(browser, { force: true })
await run('npx', ['playwright', 'test'], { env: { ...process.env, PLAYWRIGHT_JSON_OUTPUT_FILE: browser } })
count(browser, r => [r.stats.expected, r.stats.unexpected + r.stats.flaky])

console.log(`${passed} passed, ${failed} failed`)
process.exit(failed === 0 ? 0 : 1)

/** Runs some of the unit and end-to-end tests, and counts them. */
async function jest(name, options) {
  const file = join(DIST, `${name}-tests.json`)
  rmSync(file, { force: true })
  await run('npx', ['jest', ...options, '--json', `--outputFile=${file}`, '--silent=false'])
  count(file, r => [r.numPassedTests, r.numFailedTests + r.numRuntimeErrorTestSuites])
}

/** Adds a runner's own count; a runner that left none has failed. */
function count(file, read) {
  try {
    const [good, bad] = read(JSON.parse(readFileSync(file, 'utf8')))
    passed += good
    failed += bad
  }
  catch { failed++ }
}
