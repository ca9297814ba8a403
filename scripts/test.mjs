/** `npm test`: installs what is missing, then lint, types, unit tests, browser tests. The last line counts: `N passed, N failed`. */
import { readFileSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { buildPages, buildPrograms } from './build.mjs'
import { checkNode, DIST, installChromium, installPackages, run } from './ground.mjs'

checkNode()
await installPackages()
await installChromium()
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
check('Lint', await run('npx', ['eslint', '.']))
check('Dependency rule', await run('npx', ['depcruise', '--config', '.dependency-cruiser.cjs', '--output-type', 'err', 'api', 'app', 'bench', 'control', 'core', 'demo', 'generator', 'main', 'protocol', 'server', 'simfleet', 'standins']))
check('Types of the programs', await run('npx', ['tsc', '--noEmit', '-p', 'tsconfig.node.json']))
check('Types of the app', await run('npx', ['nuxt', 'typecheck']))

const unit = join(DIST, 'unit-tests.json')
rmSync(unit, { force: true })
// One file at a time: several measure time, and two cores are all there may be.
await run('npx', ['jest', '--runInBand', '--json', `--outputFile=${unit}`, '--silent=false'])
count(unit, r => [r.numPassedTests, r.numFailedTests + r.numRuntimeErrorTestSuites])

const browser = join(DIST, 'browser-tests.json')
rmSync(browser, { force: true })
await run('npx', ['playwright', 'test'], { env: { ...process.env, PLAYWRIGHT_JSON_OUTPUT_FILE: browser } })
count(browser, r => [r.stats.expected, r.stats.unexpected + r.stats.flaky])

console.log(`${passed} passed, ${failed} failed`)
process.exit(failed === 0 ? 0 : 1)

/** Adds a runner's own count; a runner that left none has failed. */
function count(file, read) {
  try {
    const [good, bad] = read(JSON.parse(readFileSync(file, 'utf8')))
    passed += good
    failed += bad
  }
  catch { failed++ }
}
