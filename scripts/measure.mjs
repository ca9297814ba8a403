/**
 * `npm run measure`: checks that measure the computer as much as a change, and searches that take long: required before
 * a release. A few cases of each are in `npm test` too.
 */
import { join } from 'node:path'
import { buildPages, buildPrograms } from './build.mjs'
import { checkNode, DIST, installForTests, installPackages, run, runTool } from './ground.mjs'

/**
 * Cases of the cheapest fleet that are held against trying everything (more rubbish for all who read anything, too),
 * made-up calibrations of each shape, and simulated pairs of runs that are compared.
 */
const THOROUGH = { VORNAK_CASES: '20000', VORNAK_SEEDS: '400', VORNAK_TRIES: '2000' }

checkNode()
await installPackages()
await installForTests()
await buildPrograms()
await buildPages()
const failed = []
for (const [name, tool, ...args] of [
  ['Cheapest fleets', 'jest', 'tests/core/cheapest'],
  ['Calibrations of made-up signals', 'jest', 'tests/core/capacity'],
  ['Differences between made-up runs', 'jest', 'tests/core/compare'],
  ['Rubbish', 'jest', 'tests/readers/rubbish', 'tests/end-to-end/rubbish'],
  ['Queueing, shares of the CPU', 'jest', '--runInBand', 'tests/standins'],
  ['Networks and rates', 'jest', '--runInBand', 'tests/end-to-end/networks', 'tests/generator/shaper'],
  ['Calibration on real processes', 'jest', '--runInBand', 'tests/end-to-end/calibration'],
  ['Capacity a run refines, and a fleet of many', 'playwright', 'test', '--project=measuring', 'capacity-refined', 'fleet-of-many'],
  ['What a live page costs', 'playwright', 'test', '--project=measuring', 'live-page'],
  ['How quick pages, a wide grid and a long list are', 'playwright', 'test', '--project=measuring', 'quick'],
]) {
  console.log(`\n${name}`)
  if ((await runTool(tool, args, { env: { ...process.env, ...THOROUGH } })) !== 0) failed.push(name)
}
console.log('\nEight hours')
if ((await run(process.execPath, ['--expose-gc', join(DIST, 'bench.mjs'), 'long', '--hours', '8'])) !== 0) failed.push('Eight hours')
console.log(failed.length === 0 ? '\nAll measured as it should.' : `\nNot as it should: ${failed.join(', ')}.`)
process.exit(failed.length === 0 ? 0 : 1)
