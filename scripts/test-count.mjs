/** Runs tests of all kinds and counts them; one that fails is asked once more, alone. */
import { readFileSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { DIST, runTool } from './ground.mjs'

/** Asked alone so often at most, again only where this share of the CPU was stolen. */
const MOST_ASKED = 3
const MUCH_STOLEN = 0.1
/** More failures than these are no accident: none of them is asked again. */
const MOST_DOUBTFUL = 24

export class TestCount {
  passed = 0
  failed = 0
  skipped = 0
  /** What has failed, each in a line. */
  failures = []
  /** What failed, and how it is asked once more: `{ names, ask }`, where `ask` resolves to an exit code. */
  #doubtful = []

  /** @param lateAt nobody is asked once more after this, ms since 1970 */
  constructor(lateAt) {
    this.lateAt = lateAt
  }

  /** A program whose exit code is its answer. @param ask runs it, and resolves to that */
  async check(name, ask) {
    if ((await ask()) === 0) this.passed++
    else {
      this.failed++
      this.failures.push(name)
      console.error(`${name} has failed.`)
    }
  }

  /** Runs some of the unit and end-to-end tests. @param name of what is run */
  async jest(name, options) {
    const file = join(DIST, `${name}-tests.json`)
    rmSync(file, { force: true })
    // A test that failed may have left a server open behind it, and Jest would wait for that for ever.
    await runTool('jest', [...options, '--forceExit', '--json', `--outputFile=${file}`, '--silent=false'])
    this.#add(name, file, r => ({
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
            ask: tests.length > 0 && (() => runTool('jest', ['--runInBand', '--forceExit', suite.name])),
          }
        }),
    }))
  }

  /** The same with one project of the browser tests. */
  async browser(project, options) {
    const file = join(DIST, `${project}-browser-tests.json`)
    rmSync(file, { force: true })
    const playwright = ['test', `--project=${project}`]
    await runTool('playwright', [...playwright, ...options], { env: { ...process.env, PLAYWRIGHT_JSON_OUTPUT_FILE: file } })
    const ask = where => () => runTool('playwright', [...playwright, '--workers=1', '--reporter=list', where])
    const failedIn = suite => [
      ...(suite.specs ?? []).filter(spec => !spec.ok).map(spec => ({
        names: [`${spec.title}: ${inShort(spec.tests[0]?.results[0]?.error?.message)}`],
        // One that builds on those before it can only be asked with them.
        ask: ask(isSerial(spec.file) ? spec.file : `${spec.file}:${spec.line}`),
      })),
      ...(suite.suites ?? []).flatMap(failedIn),
    ]
    this.#add(`${project}, browser`, file, r => ({
      good: r.stats.expected,
      left: r.stats.skipped,
      bad: r.suites.flatMap(failedIn),
    }))
  }

  /**
   * What failed is asked once more, alone: beside others, a test may have waited for a CPU that it did not get. Where
   * neighbours of this computer took its CPU meanwhile, that is true of being alone, too: then up to twice more, while
   * there is time. One that passes then is told by name and counted as passed.
   */
  async askAgain() {
    const many = this.#doubtful.length > MOST_DOUBTFUL
    for (const { names, ask } of this.#doubtful) {
      if (ask && !many && (await this.#passesAlone(ask))) {
        this.passed += names.length
        for (const name of names) console.log(`Passed only when asked again, alone: ${name}`)
      }
      else {
        this.failed += names.length
        this.failures.push(...names)
      }
    }
  }

  async #passesAlone(ask) {
    for (let asked = 1; ; asked++) {
      const before = cpuTicks()
      if ((await ask()) === 0) return true
      const stolen = stolenSince(before)
      if (asked === MOST_ASKED || stolen < MUCH_STOLEN || Date.now() > this.lateAt) return false
      console.log(`Asked once more: ${(stolen * 100).toFixed(0)} % of the CPU was stolen meanwhile.`)
    }
  }

  /** Adds a runner's own count; a runner that left none has failed. */
  #add(name, file, read) {
    try {
      const { good, left, bad } = read(JSON.parse(readFileSync(file, 'utf8')))
      this.passed += good
      this.skipped += left
      this.#doubtful.push(...bad)
    }
    catch (error) {
      this.failed++
      this.failures.push(`${name}: it left no count (${error.message})`)
    }
  }
}

function isSerial(file) {
  return readFileSync(join('tests/browser', file), 'utf8').includes(`mode: 'serial'`)
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
