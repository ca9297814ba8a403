/**
 * `long`: an hour (`--hours N`: more) of 200 generators × 20 steps × 5 answers a second and step at 4 locations,
 * through the real merge worker in virtual time: its memory and disk and their slope, starting anew in the middle, what
 * a result's page asks for afterwards, and folding it.
 */
import { once } from 'node:events'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Worker } from 'node:worker_threads'
import { NO_HEALTH, type Health } from '../core/capacity/signals'
import { seededRandom } from '../core/random/seeded'
import { binsFor } from '../core/result/course'
import type { StaffWish } from '../core/result/staff'
import { WITHOUT_TROUBLE, type RunSummary } from '../core/result/summary'
import type { RunDocument } from '../core/run/document'
import type { Cleared, Clearing } from '../control/ingest/clear-worker'
import { AnsweringThread } from '../control/ingest/answering-thread'
import { bytesOnDisk } from '../control/store/disk'
import type { Recorder } from '../protocol/recorder'
import { manyDocument, recorderOfOne, recordSecond } from './many'
import { tell } from './measure'

const SIZE = { steps: 20, locations: 4, samples: 5 }
/** What was not acknowledged yet, at most, s: the feed waits for the merge. */
const MOST_AHEAD_S = 20
/** Memory and disk are looked at this often, s of the run. */
const LOOK_EVERY_S = 300
const RUN = 1
/** Charts of a page: how many points they have at most, and what they draw. */
const MOST_BINS = 1200
const MOST_SECONDS = 3600
const STAFFS: StaffWish[] = [
  { statistics: ['present'], measure: 'users' },
  { statistics: ['p95'], measure: 'answered', split: 'step' },
  { statistics: ['perSecond'], measure: 'sent', split: 'location' },
  { statistics: ['perSecond'], measure: 'failed', split: 'kind' },
]

const MB = 2 ** 20

interface Look {
  second: number
  memory: number
  disk: number
}

/** @param program file of the merge worker @param clearing file of the program that folds frames */
export async function benchLong(
  { program, clearing }: { program: string, clearing: string },
  quick: boolean,
  hours: number,
  generators: number,
): Promise<void> {
  const lengthS = quick ? 600 : hours * 3600
  const document = manyDocument(SIZE, lengthS * 1000)
  const folder = mkdtempSync(join(tmpdir(), 'vornak-bench-'))
  const path = join(folder, 'run.db')
  const size = `${generators} generators, ${SIZE.steps} steps, ${lengthS} s`
  const long = new LongRun(program, path, document, generators)
  const told = (what: string, value: number, unit: string, goal: number) =>
    tell({ bench: 'long', case: `${size}: ${what}`, value, unit, reference: goal, ratio: value / goal, goal: `≤ ${goal} ${unit}` })

  const looks = await long.feed(0, lengthS)
  const most = Math.max(...looks.map(l => l.memory))
  const settled = looks.slice(Math.min(looks.length - 2, Math.ceil((lengthS >= 7200 ? 3600 : 600) / LOOK_EVERY_S)))
  const ofGoal = generators > 500 ? 1500 : 700
  told('memory', most / MB, 'MB', ofGoal)
  told('memory more each hour', slope(settled, l => l.memory) / MB, 'MB', 50)
  told('disk each hour', (looks.at(-1)!.disk / lengthS) * 3600 / MB, 'MB', 600)
  told('a second of it, merged', long.cpuMs / lengthS, 'ms', 500)

  told('begun anew', await long.beginAnew(), 'ms', 10_000)
  told('settled', await timed(() => long.settle()), 'ms', 60_000)
  const page = await timed(() => long.page(lengthS))
  told('what a result’s page asks', page, 'ms', 1500)
  const windows: number[] = []
  const random = seededRandom(7)
  for (let i = 0; i < 20; i++) {
    const [a, b] = [Math.floor(random() * lengthS), Math.floor(random() * lengthS)]
    windows.push(await timed(() => long.slice(Math.min(a, b), Math.max(a, b) + 1)))
  }
  windows.sort((a, b) => a - b)
  told('any window, middle of 20', windows[10]!, 'ms', 150)
  told('any window, slowest of 20', windows[19]!, 'ms', 150)
  await long.stop()
  told('folded', await timed(() => folded(clearing, path)), 'ms', 600_000)
  told('disk each hour, folded', ((bytesOnDisk(path) / lengthS) * 3600) / MB, 'MB', 150)
  rmSync(folder, { recursive: true })
}

class LongRun {
  private merging: AnsweringThread
  private readonly recorders: Recorder[]
  private readonly random = seededRandom(3)
  private acked = 0
  private opened: (() => void) | undefined
  private heard: (() => void) | undefined
  /** CPU time of this process while it was fed, ms. */
  cpuMs = 0

  constructor(
    private readonly program: string,
    private readonly path: string,
    private readonly document: RunDocument,
    private readonly generators: number,
  ) {
    this.recorders = Array.from({ length: generators }, (_, generator) =>
      recorderOfOne(
        ({ bytes, second }) =>
          this.merging.tell({ kind: 'frame', runId: RUN, generator, bytes, newest: second + 1 }, [
            bytes.buffer as ArrayBuffer,
          ]),
        () => this.health(),
      ))
    this.merging = this.thread()
    this.open()
  }

  private thread(): AnsweringThread {
    return new AnsweringThread(
      this.program,
      'merge',
      (message) => {
        if (message.kind === 'broken' || message.kind === 'aside') throw new Error(message.sentence)
        if (message.kind !== 'flushed') return
        for (const { generator, upTo } of message.acks) if (generator === this.generators - 1) this.acked = upTo
        this.opened?.()
        this.heard?.()
      },
      (sentence) => {
        throw new Error(sentence)
      },
      (error) => {
        throw error
      },
    )
  }

  private open(): void {
    this.merging.tell({
      kind: 'open',
      runId: RUN,
      path: this.path,
      document: this.document,
      generators: Array.from({ length: this.generators }, (_, i) => ({
        machineId: `m${i}`,
        name: `G-${i}`,
        location: i % SIZE.locations,
      })),
    })
  }

  /** @returns memory and disk on the way */
  async feed(fromS: number, toS: number): Promise<Look[]> {
    const looks: Look[] = []
    const before = process.cpuUsage()
    for (let second = fromS; second < toS; second++) {
      for (const [g, recorder] of this.recorders.entries()) {
        recordSecond(recorder, g, second, this.random, SIZE)
        if (second === toS - 1) recorder.finish((second + 1) * 1000)
      }
      while (second + 1 - this.acked > (second === toS - 1 ? 0 : MOST_AHEAD_S))
        await new Promise<void>((resolve) => {
          this.heard = resolve
        })
      if ((second + 1) % LOOK_EVERY_S === 0) looks.push(this.look(second))
    }
    const { user, system } = process.cpuUsage(before)
    this.cpuMs += (user + system) / 1000
    return looks
  }

  private health(): Health {
    const around = (middle: number) => middle * (0.8 + 0.4 * this.random())
    return {
      ...NO_HEALTH,
      cpuShare: around(0.3),
      loopDelayP99Ms: around(2),
      scheduleLagP99Ms: around(1),
      memoryShare: around(0.2),
      socketShare: around(0.1),
      loopUse: around(0.3),
      portShare: 0.01,
      bandwidthShare: around(0.05),
    }
  }

  private look(second: number): Look {
    globalThis.gc?.()
    return { second, memory: process.memoryUsage().rss, disk: bytesOnDisk(this.path) }
  }

  /** As after the process was killed. @returns until it goes on, ms */
  async beginAnew(): Promise<number> {
    await this.merging.stop()
    this.merging = this.thread()
    return timed(() => {
      const isOpen = new Promise<void>((resolve) => {
        this.opened = resolve
      })
      this.open()
      return isOpen
    })
  }

  settle(): Promise<RunSummary> {
    return this.merging.ask('settle', { runId: RUN, facts: WITHOUT_TROUBLE })
  }

  slice(fromS: number, toS: number): Promise<unknown> {
    return this.merging.ask('slices', { ...this.asked, fromS, toS, wish: { rows: ['step', 'location'] } })
  }

  /** What the page of a result asks for when it is opened. */
  async page(lengthS: number): Promise<void> {
    await Promise.all([
      this.merging.ask('seconds', {
        path: this.path,
        wish: { fromS: 0, toS: lengthS, most: MOST_SECONDS },
        machines: this.generators,
      }),
      this.merging.ask('window', { path: this.path, document: this.document, fromS: 0, toS: lengthS, pathMs: {} }),
      this.slice(0, lengthS),
      this.merging.ask('courses', { ...this.asked, staffs: STAFFS, bins: binsFor(0, lengthS, MOST_BINS) }),
    ])
  }

  private get asked() {
    return { path: this.path, document: this.document, machines: [] }
  }

  stop(): Promise<void> {
    return this.merging.stop()
  }
}

async function folded(program: string, path: string): Promise<void> {
  const worker = new Worker(program, { workerData: { paths: [path], what: 'frames' satisfies Clearing } })
  const [cleared] = (await once(worker, 'message')) as [Cleared]
  if (typeof cleared[path] === 'string') throw new Error(cleared[path])
}

async function timed(work: () => Promise<unknown>): Promise<number> {
  const at = performance.now()
  await work()
  return performance.now() - at
}

/** Of the straight line nearest to what was looked at, by least squares, an hour. */
function slope(looks: readonly Look[], of: (look: Look) => number): number {
  const mean = (values: number[]) => values.reduce((a, b) => a + b, 0) / values.length
  const [atS, value] = [mean(looks.map(l => l.second)), mean(looks.map(of))]
  const up = looks.reduce((sum, l) => sum + (l.second - atS) * (of(l) - value), 0)
  const across = looks.reduce((sum, l) => sum + (l.second - atS) ** 2, 0)
  return (up / across) * 3600
}
