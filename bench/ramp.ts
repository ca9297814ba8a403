/** `ramp`: the largest gap, in users, between planned and started at every 100 ms; 1,000 users dealt to 10 generators, each a process. */
import { fork } from 'node:child_process'
import { staysOf } from '../core/load/stays'
import type { LoadProfile } from '../core/load/profile'
import type { Plan, RunDocument } from '../core/plan/document'
import { benchDocument, step } from './document'
import { tell } from './measure'
import { startTarget } from './target'

const USERS = 1000
const GENERATORS = 10

export async function benchRamp(program: string, rampWorker: string, quick: boolean): Promise<void> {
  const { host, stop } = await startTarget(program)
  for (const [seconds, goal] of quick ? [[2, 3]] as const : [[60, 1], [10, 3]] as const) {
    const profile: LoadProfile = { startDelayMs: 0, segments: [{ to: USERS, overMs: seconds * 1000 }, { to: USERS, overMs: 500 }] }
    const plan: Plan = {
      schema: 'vornak-plan/2', name: 'ramp', question: '', targetId: 't', groups: [{ letter: 'A', name: 'A', journeyId: 'j', profile }],
      locations: [{ code: 'REY', provider: 'n', region: 'r', machineType: 't', machines: GENERATORS }], placement: { A: { REY: 10_000 } }, objectives: [], assumedUsersPerVcpu: 100, rehearse: false, keepMachinesMin: 0, seed: 1,
    }
    const document: RunDocument = { ...benchDocument(host, [step({ think: { kind: 'fixed', ms: 5000 } })]), plan }
    const workers = Array.from({ length: GENERATORS }, (_, generator) => fork(rampWorker, [], { serialization: 'json' }).on('spawn', function (this: ReturnType<typeof fork>) { this.send({ kind: 'prepare', document, generator, generators: GENERATORS }) }))
    const once = <T>(kind: string) => Promise.all(workers.map(w => new Promise<T>((resolve) => {
      const take = (m: unknown) => {
        if ((m as { kind: string }).kind !== kind) return
        w.off('message', take)
        resolve(m as T)
      }
      w.on('message', take)
    })))
    await once('prepared')
    const startAt = Date.now() + 1000
    const told = once<{ starts: number[] }>('started')
    for (const w of workers) w.send({ kind: 'go', startAt })
    const starts = (await told).flatMap(m => m.starts).sort((a, b) => a - b)
    for (const w of workers) w.disconnect()
    const planned = staysOf(profile).map(s => s[0]!.startMs).sort((a, b) => a - b)
    let gap = 0
    for (let at = 100; at <= seconds * 1000; at += 100) gap = Math.max(gap, Math.abs(countUpTo(planned, at) - countUpTo(starts, at)))
    tell({ bench: 'ramp', case: `${seconds} s`, value: gap, unit: 'users', reference: USERS, ratio: gap, goal: `≤ ${goal}` })
  }
  stop()
}

function countUpTo(sorted: number[], at: number): number {
  let n = 0
  while (n < sorted.length && sorted[n]! <= at) n++
  return n
}
