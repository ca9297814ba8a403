/**
 * `ramp`: the largest gap, in users, between planned and started at every 100 ms; 1,000 users dealt to 10 generators,
 * each a process. Besides the plain ramp: all shapes of level at once, in several groups, on mixed networks.
 */
import { fork } from 'node:child_process'
import { staysOf } from '../core/load/stays'
import type { LoadProfile } from '../core/load/profile'
import type { Plan } from '../core/plan/document'
import type { RunDocument } from '../core/run/document'
import { readPhrase } from '../core/load/phrase'
import { benchDocument, LINE, step } from './document'
import { tell } from './measure'
import { startTarget } from './target'

const USERS = 1000
const GENERATORS = 10

interface Case {
  name: string
  levels: string[]
  goal: number
  mixed?: boolean
}

const CASES: readonly Case[] = [
  { name: '60 s', levels: [`→ ${USERS} in 60 s, hold 500 ms`], goal: 1 },
  { name: '10 s', levels: [`→ ${USERS} in 10 s, hold 500 ms`], goal: 3 },
  {
    name: 'all shapes, mixed networks',
    goal: 3,
    mixed: true,
    levels: [
      'stairs → 400 in 4 steps of 5 s with 3 s ramps, → 0 in 10 s',
      'wait 2 s, → 100 in 5 s, burst → 200 for 4 s with 2 s ramps, hold 8 s, → 0 in 5 s',
      '→ 120 in 4 s, wave ± 60 every 8 s for 16 s, → 0 in 6 s',
      'soak 200 for 12 s with 6 s ramps',
    ],
  },
]
const QUICK: readonly Case[] = [{ name: '2 s', levels: [`→ ${USERS} in 2 s, hold 500 ms`], goal: 3 }]

export async function benchRamp(program: string, rampWorker: string, quick: boolean): Promise<void> {
  const { host, stop } = await startTarget(program)
  for (const { name, levels, goal, mixed } of quick ? QUICK : CASES) {
    const profiles = levels.map((text): LoadProfile => {
      const reading = readPhrase(text)
      if (!reading.ok) throw new Error(`${text}: ${reading.problem}`)
      return reading.profile
    })
    const letters = profiles.map((_, i) => String.fromCharCode(65 + i))
    const plan: Plan = {
      ...benchDocument(host, []).plan,
      groups: profiles.map((profile, i) => ({ letter: letters[i]!, name: letters[i]!, journeyId: 'j', profile })),
      locations: [{ code: 'REY', provider: 'n', region: 'r', machineType: 't', machines: GENERATORS }],
      placement: Object.fromEntries(letters.map(l => [l, { REY: 10_000 }])),
      ...(mixed ? { networks: Object.fromEntries(letters.map(l => [l, { REY: { [LINE.id]: 5000 } }])) } : {}),
    }
    const document: RunDocument = { ...benchDocument(host, [step({ think: { kind: 'fixed', ms: 5000 } })]), plan }
    const workers = Array.from({ length: GENERATORS }, (_, generator) =>
      fork(rampWorker, [], { serialization: 'json' }).on('spawn', function (this: ReturnType<typeof fork>) {
        this.send({ kind: 'prepare', document, generator, generators: GENERATORS })
      }),
    )
    const once = <T>(kind: string) =>
      Promise.all(
        workers.map(
          w =>
            new Promise<T>((resolve) => {
              const take = (m: unknown) => {
                if ((m as { kind: string }).kind !== kind) return
                w.off('message', take)
                resolve(m as T)
              }
              w.on('message', take)
            }),
        ),
      )
    await once('prepared')
    const startAt = Date.now() + 1000
    const told = once<{ starts: number[] }>('started')
    for (const w of workers) w.send({ kind: 'go', startAt })
    const starts = (await told).flatMap(m => m.starts).sort((a, b) => a - b)
    for (const w of workers) w.disconnect()
    const planned = profiles
      .flatMap(p => staysOf(p))
      .flatMap(stays => stays.map(s => s.startMs))
      .sort((a, b) => a - b)
    const lastMs = planned[planned.length - 1]!
    let gap = 0
    for (let at = 100; at <= lastMs; at += 100)
      gap = Math.max(gap, Math.abs(countUpTo(planned, at) - countUpTo(starts, at)))
    tell({
      bench: 'ramp',
      case: name,
      value: gap,
      unit: 'users',
      reference: planned.length,
      ratio: gap,
      goal: `≤ ${goal}`,
    })
  }
  stop()
}

function countUpTo(sorted: number[], at: number): number {
  let n = 0
  while (n < sorted.length && sorted[n]! <= at) n++
  return n
}
