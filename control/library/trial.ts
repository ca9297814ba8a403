/**
 * Tries a journey with one user: here, by a generator program of its own started for this alone, or on a generator that
 * is enrolled. The same road as the load: what the approval does not name is not sent to. So the server is no way into
 * its own network.
 */
import { spawn } from 'node:child_process'
import { createInterface } from 'node:readline'
import { randomUUID } from 'node:crypto'
import type { ExchangeRecord } from '../../core/journey/exchange-record'
import type { Journey } from '../../core/journey/journey'
import { approvalFaults } from '../../core/journey/approval'
import type { Target } from '../../core/journey/target'
import type { RunDocument } from '../../core/run/document'
import { readFromGenerator, type FromGenerator, type ToGenerator } from '../../protocol/messages'
import { ControlError } from '../errors'
import type { Connection } from '../link/generator-hub'
import type { Library } from './library'
import { filesOf, suppliesForTry } from './supplies'
import { messageOf } from '../../core/values/thrown'

export interface Tried {
  records: ExchangeRecord[]
  problem: string
}

/** A try that takes longer is ended, ms. */
const MOST_MS = 120_000
/** Tries on this machine at once. */
const MOST_AT_ONCE = 2

/** A journey with one user, as a run's document says it. */
export function trialDocument(journey: Journey, target: Target): RunDocument {
  return {
    planVersion: 0,
    target,
    journeys: [journey],
    fleet: [],
    plan: {
      schema: 'vornak-plan/3',
      name: 'try',
      question: '',
      targetId: target.id,
      groups: [
        {
          letter: 'A',
          name: 'one user',
          journeyId: journey.id,
          profile: { startDelayMs: 0, segments: [{ to: 1, overMs: 0 }] },
        },
      ],
      locations: [{ code: 'TRY', provider: '', region: '', machineType: '', machines: 1 }],
      placement: { A: { TRY: 10_000 } },
      objectives: [],
      assumedUsersPerVcpu: 1,
      rehearse: false,
      keepMachinesMin: 0,
      seed: Date.now() % 2 ** 31,
    },
  }
}

export class Trials {
  private under = 0
  private readonly waiting = new Map<string, { document: RunDocument, done: (tried: Tried) => void }>()

  /** @param generator file of the generator program */
  constructor(
    private readonly library: Library,
    private readonly generator: string,
  ) {}

  /** @throws ControlError when the target is not approved, or too many tries are under way */
  async here(journey: Journey, target: Target): Promise<Tried> {
    checkApproved(target)
    checkHttp(journey)
    if (this.under >= MOST_AT_ONCE)
      throw new ControlError(
        'busy',
        429,
        `${MOST_AT_ONCE} tries are under way on this machine.`,
        'Wait until one is over.',
      )
    this.under++
    try {
      return await this.spawned(trialDocument(journey, target))
    }
    finally {
      this.under--
    }
  }

  /** @throws ControlError when the target is not approved */
  on(connection: Connection, journey: Journey, target: Target): Promise<Tried> {
    checkApproved(target)
    checkHttp(journey)
    if (connection.work.state === 'loading')
      throw new ControlError('busy', 409, 'The generator carries a load.', 'Choose another, or try here.')
    const document = trialDocument(journey, target)
    const id = randomUUID()
    return new Promise((resolve) => {
      const done = (tried: Tried) => {
        clearTimeout(late)
        this.waiting.delete(id)
        resolve(tried)
      }
      const late = setTimeout(
        () => done({ records: [], problem: `the generator has not answered within ${MOST_MS / 1000} s` }),
        MOST_MS,
      )
      this.waiting.set(id, { document, done })
      connection.say({ kind: 'try', id, document, supplies: suppliesForTry(this.library, document, 0) })
    })
  }

  /** A message of a generator that tries. @returns whether it was one */
  take(connection: Pick<Connection, 'say'>, message: FromGenerator): boolean {
    if (message.kind === 'tried') {
      this.waiting.get(message.id)?.done({ records: message.records, problem: message.problem })
      return true
    }
    if (message.kind !== 'want') return false
    const asked = [...this.waiting.values()].find(w => mayHave(this.library, w.document, message.file))
    if (asked) connection.say(partOf(this.library, message))
    return asked !== undefined
  }

  private spawned(document: RunDocument): Promise<Tried> {
    return new Promise((resolve) => {
      const child = spawn(process.execPath, [this.generator], {
        env: { VORNAK_TRY: '1', PATH: process.env.PATH ?? '' },
        stdio: ['pipe', 'pipe', 'pipe'],
      })
      let complaint = ''
      const done = (tried: Tried) => {
        clearTimeout(late)
        child.kill('SIGKILL')
        resolve(tried)
      }
      const late = setTimeout(() => done({ records: [], problem: `not over after ${MOST_MS / 1000} s` }), MOST_MS)
      const say = (message: ToGenerator) => {
        child.stdin.write(`${JSON.stringify(message)}\n`)
      }
      child.stdin.on('error', () => {
        /* its end is told below */
      })
      child.stderr.on('data', (text: Buffer) => {
        complaint = (complaint + text.toString()).slice(-2000)
      })
      child.on('error', error => done({ records: [], problem: error.message }))
      child.on('exit', code =>
        done({
          records: [],
          problem: `the generator program has ended (${code}): ${complaint.trim() || 'it said nothing'}`,
        }),
      )
      createInterface({ input: child.stdout }).on('line', (line) => {
        let message: FromGenerator
        try {
          message = readFromGenerator(line)
        }
        catch (error) {
          return done({ records: [], problem: messageOf(error) })
        }
        if (message.kind === 'tried') done({ records: message.records, problem: message.problem })
        if (message.kind === 'want' && mayHave(this.library, document, message.file)) say(partOf(this.library, message))
      })
      say({ kind: 'try', id: 'here', document, supplies: suppliesForTry(this.library, document, 0) })
    })
  }
}

/** Whether a document needs this content. */
export function mayHave(library: Library, document: RunDocument, file: string): boolean {
  return document.journeys.some(
    j => filesOf(j).includes(file) || (j.feeds ?? []).some(u => library.feed(u.feed)?.rowsFile === file),
  )
}

/** Largest part of a file in one message, bytes. */
const MOST_PART_BYTES = 1024 * 1024

export function partOf(
  library: Library,
  { file, from, to }: Extract<FromGenerator, { kind: 'want' }>,
): Extract<ToGenerator, { kind: 'part' }> {
  return {
    kind: 'part',
    file,
    from,
    base64: library.files.has(file)
      ? library.files.read(file, from, Math.min(to, from + MOST_PART_BYTES)).toString('base64')
      : '',
  }
}

function checkHttp(journey: Journey): void {
  if (journey.kind === 'command')
    throw new ControlError(
      'command',
      409,
      'A command is not tried step by step.',
      'Run it in a small plan with one user: its log and files come back with the result.',
    )
}

function checkApproved(target: Target): void {
  const now = Date.now()
  const [fault] = approvalFaults(target, { fromMs: now, toMs: now })
  // One user is no load: the hours that were agreed for load do not bind it.
  if (fault?.code === 'not-approved' || fault?.code === 'approval-over')
    throw new ControlError(fault.code, 409, fault.sentence, fault.remedy)
}
