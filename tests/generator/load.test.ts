/** A worker's whole load against a server that counts: what was recorded is what was received. */
import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { SeriesSum } from '../../core/merge/series-sum'
import type { SlicedUser } from '../../core/run/slice'
import { HealthReader } from '../../generator/users/health'
import { Load, NO_SUPPLIES } from '../../generator/users/load'
import { cueList, Schedule } from '../../generator/users/schedule'
import { addEntries, openFrame } from '../../protocol/frame'
import { journey, plan, runDocument, step, target } from '../build/plans'

let server: Server
let host = ''
let received = 0
let delayMs = 5
let status = 200
beforeAll(async () => {
  server = createServer((request, response) => {
    received++
    request.resume()
    setTimeout(() => {
      response.statusCode = status
      response.end('{"ok":true}')
    }, delayMs)
  })
  await new Promise<void>(r => server.listen(0, '127.0.0.1', r))
  host = `127.0.0.1:${(server.address() as AddressInfo).port}`
})
afterAll(async () => {
  health.stop()
  server.closeAllConnections()
  await new Promise(r => server.close(r))
})
beforeEach(() => {
  received = 0
  delayMs = 5
  status = 200
})
const health = new HealthReader({
  hostname: '',
  platform: '',
  node: '',
  cores: 1,
  memoryBytes: 2 ** 33,
  descriptors: 1000,
})

/** @param sinceMs the run began so long ago */
function run(
  stays: [startMs: number, stopMs: number][],
  { leaveMs = 500, sinceMs = -20, expectText = undefined as string | undefined } = {},
) {
  const document = runDocument({
    target: target({
      baseUrl: `http://${host}`,
      approval: { hosts: [host], mostUsers: 99, until: '2999', contact: 'x' },
    }),
    journeys: [
      journey({
        round: [
          step({
            think: { kind: 'uniform', fromMs: 5, toMs: 25 },
            expect: [
              { kind: 'status', allow: '200' },
              ...(expectText === undefined
                ? []
                : [{ kind: 'body' as const, rule: 'contains' as const, value: expectText }]),
            ],
            timeoutMs: 1000,
          }),
        ],
      }),
    ],
    plan: plan({ placement: { A: { REY: 10_000 } } }),
  })
  const users = stays.map(([startMs, stopMs], i): SlicedUser => ({
    group: 0,
    number: i + 1,
    firstSeries: 0,
    network: 'direct',
    client: 'plain',
    stays: [{ startMs, stopMs }],
  }))
  const frames: ReturnType<typeof openFrame>['top'][] = []
  const sum = new SeriesSum()
  let load!: Load
  const finished = new Promise<void>((resolve) => {
    load = new Load(
      {
        runId: '1',
        document,
        slice: { users, arrivals: [] },
        incarnation: 5,
        worker: 0,
        leaveMs,
        health,
        supplies: NO_SUPPLIES,
        onExemplar() {
          /* thrown away */
        },
        onFinished: () => resolve(),
        onFrame: ({ bytes }) => {
          const frame = openFrame(bytes)
          frames.push(frame.top)
          addEntries(
            frame,
            () => sum,
            () => true,
          )
        },
      },
      performance.now() - sinceMs,
    )
    load.run()
  })
  return { load, finished, frames, sum }
}

describe('a load', () => {
  it('sends what it records: started, right and received are one number; frames are one a second, the last one closing', async () => {
    const { finished, frames, sum } = run(Array.from({ length: 12 }, (_, i) => [i * 60, 1300 + i * 10]))
    await finished
    expect(sum.started).toBe(received)
    expect(sum.right).toBe(received)
    expect(received).toBeGreaterThan(200)
    expect(sum.timings.right.count).toBe(received)
    expect(sum.timings.connect.count).toBe(12)
    expect(frames.map(f => f.second)).toEqual([0, 1])
    expect(frames.at(-1)).toMatchObject({
      last: true,
      claims: { started: received, right: received, failed: 0, cut: 0 },
      users: 0,
    })
    expect(frames[0]!.users).toBe(12)
  })

  it('counts a wrong status and a wrong answer as failures, each by its name, apart from right answers', async () => {
    status = 500
    const wrong = run([[0, 300]])
    await wrong.finished
    expect(wrong.sum.failuresByKind()).toEqual({ status: received })
    expect(wrong.sum.timings.right.count).toBe(0)
    expect(wrong.sum.timings.failed.count).toBe(received)
    status = 200
    received = 0
    const text = run([[0, 300]], { expectText: 'no such words' })
    await text.finished
    expect(text.sum.failuresByKind()).toEqual({ expectation: received })
  })

  it('counts a timeout as at least its limit', async () => {
    delayMs = 3000
    const { finished, sum } = run([[0, 1100]], { leaveMs: 2000 })
    await finished
    expect(sum.failuresByKind()).toEqual({ timeout: 1 })
    expect(sum.timings.failed.minUs()!).toBeGreaterThanOrEqual(999_000)
    expect(sum.unclear).toBe(1)
  })

  it('lets users who leave have their answer, cuts those who wait too long, and calls neither a failure', async () => {
    delayMs = 800
    const { finished, sum, frames } = run(
      [
        [0, 200],
        [0, 200],
      ],
      { leaveMs: 150 },
    )
    await finished
    expect(sum).toMatchObject({ started: 2, right: 0, failed: 0, cut: 2 })
    expect(frames.at(-1)!.claims).toMatchObject({ started: 2, cut: 2 })
    delayMs = 100
    const patient = run(
      [
        [0, 150],
        [0, 150],
      ],
      { leaveMs: 2000 },
    )
    await patient.finished
    expect(patient.sum.cut).toBe(0)
    expect(patient.sum.right).toBe(patient.sum.started)
  })

  it('drains on request: nobody new starts, everybody leaves', async () => {
    const { load, finished, sum } = run([
      [0, 60_000],
      [50, 60_000],
      [30_000, 60_000],
    ])
    while (sum.started === 0 && received < 5) await new Promise(r => setTimeout(r, 10))
    load.drain()
    await finished
    expect(sum.started).toBe(received)
    expect(sum.ended).toBe(sum.started)
  })

  it('joins a run that loads: frames begin with the second it joins in, those who should be there come over 5 s, those who have left do not', async () => {
    // 60.4 s into the run: five have left for good, ten should be there since second 50, two come in second 62.
    const { finished, frames, sum } = run(
      [
        ...Array.from({ length: 5 }, () => [40_000, 60_000] as [number, number]),
        ...Array.from({ length: 10 }, () => [50_000, 67_300] as [number, number]),
        ...Array.from({ length: 2 }, () => [62_000, 67_300] as [number, number]),
      ],
      { sinceMs: 60_400 },
    )
    await finished
    expect(frames.map(f => f.second)).toEqual([60, 61, 62, 63, 64, 65, 66, 67])
    // Places in the row of 17 over 5 s: those from the sixth on are users 6 to 15.
    const present = (second: number) => frames.find(f => f.second === second)!.users
    expect(present(60)).toBe(0)
    expect(present(63)).toBeGreaterThan(2)
    expect(present(63)).toBeLessThan(12)
    expect(present(65)).toBe(12)
    expect(sum.started).toBe(received)
    expect(frames.at(-1)).toMatchObject({ last: true, users: 0 })
  }, 15_000)

  it('aborts at once', async () => {
    delayMs = 900
    const { load, finished, sum } = run([[0, 60_000]])
    while (received === 0) await new Promise(r => setTimeout(r, 5))
    const at = performance.now()
    load.abort()
    await finished
    expect(performance.now() - at).toBeLessThan(300)
    expect(sum).toMatchObject({ started: 1, cut: 1 })
  })
})

describe('the schedule', () => {
  it('gives every cue in order, never early', async () => {
    const given: [number, number][] = []
    const began = performance.now()
    await new Promise<void>((done) => {
      new Schedule(
        cueList(
          [30, 10, 20.4, 10, 55].map(atMs => ({ atMs, act: () => given.push([atMs, performance.now() - began]) })),
        ),
        began,
        () => {
          /* not read */
        },
        done,
      ).run()
    })
    expect(given.map(g => g[0])).toEqual([10, 10, 20.4, 30, 55])
    for (const [at, when] of given) expect(when).toBeGreaterThanOrEqual(at)
  })
})
