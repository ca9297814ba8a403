/**
 * Calls the roll: asks generators what they are and what they reach, each with a nonce of its own, and keeps what they
 * answer.
 */
import { randomBytes } from 'node:crypto'
import {
  judgeRollCall,
  type CalledMachine,
  type RollCallFinding,
  type RollCallReport,
} from '../../core/fleet/roll-call'
import type { Target } from '../../core/journey/target'
import type { ToGenerator } from '../../protocol/messages'
import { RELEASE } from '../../protocol/version'
import type { Clock } from '../clock'
import type { Machine, MachineStore } from '../store/machines'
import type { RollCallStore } from '../store/roll-calls'
import type { Connection, GeneratorHub } from './generator-hub'
import { forgetOldest } from '../../core/values/forget-oldest'

/** What generators are asked besides themselves. */
export interface Questions extends Pick<Extract<ToGenerator, { kind: 'rollCall' }>, 'hosts' | 'addressRanges' | 'runtimes'> {
  /** Length of the self-test, s, and the requests/s it is held against. */
  selfTest?: { seconds: number, plannedPerS: number }
}

/** Where the roll call asks whether a target is reached. */
export function whereToReach({
  approval,
  baseUrl,
}: Pick<Target, 'approval' | 'baseUrl'>): Pick<Questions, 'hosts' | 'addressRanges'> {
  const secure = (host: string) =>
    baseUrl.startsWith('https:') ? host === hostWithPort(baseUrl) || host.endsWith(':443') : host.endsWith(':443')
  return {
    hosts: (approval?.hosts ?? []).map(host => ({ host, secure: secure(host) })),
    addressRanges: approval?.addressRanges ?? [],
  }
}

function hostWithPort(url: string): string {
  const { hostname, port, protocol } = new URL(url)
  return `${hostname}:${port || (protocol === 'https:' ? '443' : '80')}`
}

/** Runs whose roll call is kept in memory. */
const MOST_JUDGED = 8

interface Asked {
  nonce: string
  plannedPerS?: number
  runId: number | undefined
  connection: Connection
}

export class RollCaller {
  private readonly asked = new Map<string, Asked>()
  /** Answers to a run's roll call, as last read, with what they mean. */
  private readonly judged = new Map<
    number,
    { machines: string, called: CalledMachine[], findings: RollCallFinding[] }
  >()

  constructor(
    private readonly machines: MachineStore,
    private readonly hub: GeneratorHub,
    private readonly rollCalls: RollCallStore,
    private readonly clock: Clock,
    private readonly onAnswer: (machineId: string) => void,
  ) {}

  /** Asks once per connection and run; a generator that comes back is asked again. */
  ask(machine: Machine, connection: Connection, questions: Questions, runId?: number, anew = false): void {
    const before = this.asked.get(machine.id)
    if (!anew && before?.connection === connection && before.runId === runId) return
    const nonce = randomBytes(18).toString('base64url')
    const { selfTest, ...rest } = questions
    this.asked.set(machine.id, { nonce, runId, connection, ...(selfTest ? { plannedPerS: selfTest.plannedPerS } : {}) })
    connection.say({ kind: 'rollCall', nonce, ...rest, selfTestS: selfTest?.seconds ?? 0 })
  }

  /** A generator has answered. */
  take(connection: Connection, { nonce, ...rest }: RollCallReport): void {
    const asked = this.asked.get(connection.machineId)
    const machine = this.machines.machine(connection.machineId)
    if (!asked || !machine) return
    const called = {
      ...this.calledOf(machine, { nonce, ...rest }, asked.nonce),
      ...(asked.plannedPerS === undefined ? {} : { plannedPerS: asked.plannedPerS }),
    }
    this.rollCalls.keep({ runId: asked.runId, machineId: machine.id, at: this.clock.now(), called })
    if (asked.runId !== undefined) this.judged.delete(asked.runId)
    this.onAnswer(machine.id)
  }

  /** The last answer of a machine, as it was told. */
  private latest(machine: Machine): { at: number, called: CalledMachine } {
    const stored = this.rollCalls.latest(machine.id)
    return stored ?? { at: 0, called: this.calledOf(machine, undefined, '') }
  }

  /** What a run's machines have answered to it so far, and what it means. */
  judge(machines: readonly Machine[], runId: number): { called: CalledMachine[], findings: RollCallFinding[] } {
    const ids = machines.map(m => m.id).join(' ')
    const kept = this.judged.get(runId)
    if (kept?.machines === ids) return kept
    const answers = new Map(this.rollCalls.ofRun(runId).map(r => [r.machineId, r.called]))
    const called = machines.flatMap((m) => {
      const answer = answers.get(m.id)
      return answer ? [answer] : []
    })
    const result = { machines: ids, called, findings: judgeRollCall(called, RELEASE) }
    this.judged.set(runId, result)
    forgetOldest(this.judged, MOST_JUDGED)
    return result
  }

  /** The latest answer of each of these, judged together. */
  judgeLatest(machines: readonly Machine[]): {
    called: (CalledMachine & { at: number })[]
    findings: RollCallFinding[]
  } {
    const called = machines.map((m) => {
      const { called, at } = this.latest(m)
      return { ...called, at }
    })
    return { called, findings: judgeRollCall(called, RELEASE) }
  }

  private calledOf(machine: Machine, report: RollCallReport | undefined, nonce: string): CalledMachine {
    const connection = this.hub.connections.get(machine.id)
    const now = this.clock.now()
    return {
      id: machine.id,
      name: machine.name,
      location: machine.location,
      type: machine.type,
      address: machine.address,
      report,
      nonce,
      clock:
        connection && connection.clock.samples > 0
          ? { offsetMs: connection.clock.offsetAt(now), uncertaintyMs: connection.clock.uncertaintyAt(now) }
          : undefined,
    }
  }
}
