/** The main thread of a generator: keeps the link, the spool and the lease, and hands work to the worker threads. */
import { randomBytes } from 'node:crypto'
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { Worker } from 'node:worker_threads'
import { sliceOfParts } from '../core/run/assigned-load'
import { partOfSlice, shiftAt, sliceFor, type SlicedUser } from '../core/run/slice'
import { runLengthMs } from '../core/plan/length'
import type { RunDocument } from '../core/run/document'
import type { RunSupplies, ToGenerator, WorkState } from '../protocol/messages'
import { CommandLoad } from './command/command-load'
import { HealthReader } from './users/health'
import { workerHeap } from './users/heap'
import { hostFacts } from './link/host-facts'
import { Lease } from './link/lease'
import { Link } from './link/link'
import type { Transport } from './link/transport'
import { ExemplarPost } from './link/exemplar-post'
import { Spool, TRICKLE_BYTES } from './link/spool'
import { SupplyLine, type FetchedSupplies } from './link/supplies'
import { readProxy } from './exchange/proxy'
import { Reassigned } from './reassigned'
import { rollCallReport } from './roll-call/report'
import { rehearsedSteps } from './users/try-journeys'
import { hrNow, type FromWorker, type ToWorker, type WorkerStart } from './users/worker-messages'
import { messageOf } from '../core/values/thrown'

/** Files are brought back in parts of this, bytes. */
const BROUGHT_PART_BYTES = 512 * 1024
/** Exit codes: lease or work over; refused by the controller. */
const EXIT_DONE = 0
const EXIT_REFUSED = 2

/** What could not be sent is left here, in the machine's folder. */
const SPOOL_FILE = 'unsent-frames'

export interface AgentOptions {
  transport: Transport
  token: string
  /** File of this program, started again as worker threads. */
  program: string
  /** Address of a proxy to go out through, with user and password where it asks for them. */
  proxy?: string | undefined
  /** Folder on the machine that is this generator's own; undefined: it has none, and leaves nothing. */
  folder: string | undefined
  /** Told whenever the lease changes, ms from now: for a watchdog outside this process. */
  onLease?: (leaseMs: number) => void
  exit: (code: number) => void
  say: (line: string) => void
}

/** @returns leaves behind what could not be sent; called also when the process is told to end */
// eslint-disable-next-line max-lines-per-function -- a closure: its functions share what it keeps
export function runAgent({ transport, token, program, proxy, folder, onLease, exit, say }: AgentOptions): {
  leave(): void
} {
  const facts = hostFacts()
  const incarnation = randomBytes(4).readUInt32LE()
  const spool = new Spool(bytes => link.sendFrame(bytes))
  const exemplars = new ExemplarPost(incarnation, message => link.say(message))
  const supplyLine = new SupplyLine(message => link.say(message))
  let lease: Lease | undefined
  let work: { state: WorkState, runId: string } = { state: 'idle', runId: '' }
  /** Why the load ended, once it has. */
  let endReason = 'the plan is over'

  const threads = Math.max(1, Math.round(facts.cores))
  const resourceLimits = workerHeap(facts.memoryBytes, threads)
  const workers = Array.from({ length: threads }, (_, index) => {
    const worker = new Worker(program, {
      workerData: { worker: index, incarnation, host: facts, ...(proxy ? { proxy } : {}) } satisfies WorkerStart,
      resourceLimits,
    })
    worker.on('message', (message: FromWorker) => takeFromWorker(index, message))
    worker.on('error', (error) => {
      say(`A worker thread ended: ${error.message}. The generator stops.`)
      leave()
      exit(1)
    })
    return worker
  })
  const tellAll = (message: ToWorker) => workers.forEach(w => w.postMessage(message))
  const awaiting = { prepared: 0, finished: 0 }
  let preparedUsers = 0
  /** What was dealt out in this run: others' parts can be told from it too. */
  let dealt: { document: RunDocument, generators: number[][] } | undefined
  let reassigned = new Reassigned()
  let dropped = 0
  let commands: CommandLoad[] = []
  const health = new HealthReader(facts)

  const link = new Link({
    transport,
    token,
    facts,
    work: () => work,
    onUp: ({ leaseMs, graceMs, since }) => {
      // Its log has a line from the start: an empty one would not tell whether there was a generator.
      if (!lease) say(`Connected: process ${process.pid}, Node ${facts.node.replace('v', '')}.`)
      lease?.stop()
      lease = new Lease(
        leaseMs,
        graceMs,
        since,
        (ms) => {
          if (work.state !== 'loading') return
          endReason = `out of touch with the controller for ${Math.round(ms / 1000)} s`
          say(`${endReason}: the load stops by itself.`)
          tellAll({ kind: 'drain' })
          for (const command of commands) command.drain()
        },
        () => {
          say('The lease is over: the generator ends.')
          leave()
          exit(EXIT_DONE)
        },
      )
      onLease?.(leaseMs)
      spool.startOver()
      exemplars.again()
      if (work.state === 'finished') link.say({ kind: 'finished', runId: work.runId, reason: endReason })
    },
    onRefused: (_, sentence) => {
      say(sentence)
      leave()
      exit(EXIT_REFUSED)
    },
    onMessage: (message) => {
      // A handler and its message are of the same kind, which the compiler does not see.
      void (handlers[message.kind] as (m: typeof message) => void)(message)
    },
  })

  type Handled = Exclude<ToGenerator, { kind: 'hello' | 'refused' | 'enrolled' }>
  const handlers: { [K in Handled['kind']]: (message: Extract<Handled, { kind: K }>) => void | Promise<void> } = {
    beat({ t1, leaseMs, echo }) {
      const t2 = performance.timeOrigin + performance.now()
      if (echo > 0) lease?.heard(echo - performance.timeOrigin)
      lease?.renew(leaseMs)
      onLease?.(leaseMs)
      link.say({ kind: 'beatReply', t1, t2, t3: performance.timeOrigin + performance.now() })
    },
    async rollCall(message) {
      link.say({
        kind: 'rollCallReply',
        ...(await rollCallReport(message, {
          facts,
          folder: folder ?? '.',
          proxy: proxy === undefined ? undefined : readProxy(proxy),
        })),
      })
    },
    rehearse({ document, runId, supplies }) {
      work = { state: 'idle', runId }
      return tryOn('rehearsal', runId, document, supplies)
    },
    try({ id, document, supplies }) {
      return tryOn(id, `try-${id}`, document, supplies)
    },
    part(message) {
      supplyLine.take(message)
    },
    exemplarsAck({ incarnation: of, batch }) {
      exemplars.acknowledge(of, batch)
    },
    async prepare({ runId, document, generators, post, leaveMs, supplies }) {
      const slice = sliceFor(document, generators, post)
      // A generator that is there for the peak only has said its last word when that is over.
      const lastsMs = shiftAt(document, post)?.toMs ?? runLengthMs(document)
      spool.clear()
      dealt = { document, generators }
      reassigned = new Reassigned()
      for (const command of commands) command.abort()
      commands = []
      awaiting.prepared = awaiting.finished = workers.length
      work = { state: 'idle', runId }
      endReason = 'the plan is over'
      preparedUsers = slice.users.length
      dropped = 0
      try {
        const fetched = await supplyLine.fetch(supplies)
        commands = commandsFor(runId, document, slice.users, leaveMs, fetched, supplies)
        awaiting.prepared = awaiting.finished = workers.length + commands.length
        for (const command of commands)
          void command.prepare().then(
            () => takeFromWorker(-1, { kind: 'prepared' }),
            (error: Error) => takeFromWorker(-1, { kind: 'unprepared', problem: error.message }),
          )
        workers.forEach((w, i) =>
          w.postMessage({
            kind: 'prepare',
            runId,
            document,
            lastsMs,
            leaveMs,
            slice: partOfSlice(slice, i, workers.length),
            supplies: fetched,
            post: {
              generator: supplies.generator,
              generators: supplies.generators,
              worker: i,
              workers: workers.length,
            },
          } satisfies ToWorker),
        )
      }
      catch (error) {
        link.say({ kind: 'unprepared', runId, problem: messageOf(error) })
      }
    },
    go({ runId, startAt }) {
      if (work.state !== 'prepared' || work.runId !== runId) return
      work = { state: 'loading', runId }
      const waitMs = startAt - (performance.timeOrigin + performance.now())
      tellAll({ kind: 'go', startAtHr: hrNow() + waitMs })
      const startedAt = performance.now() + waitMs
      for (const command of commands) setTimeout(() => command.run(startedAt), Math.max(0, waitMs))
      link.say({ kind: 'going', runId })
    },
    rate({ runId, group, betweenS, mostRate }) {
      if (work.runId === runId && work.state === 'loading') tellAll({ kind: 'rate', group, betweenS, mostRate })
    },
    steer({ runId, group, users }) {
      if (work.runId === runId && work.state === 'loading') tellAll({ kind: 'steer', group, users })
    },
    takeOver({ runId, lost }) {
      if (work.runId !== runId || work.state !== 'loading' || !dealt) return
      const slice = sliceOfParts(dealt.document, dealt.generators, reassigned.fresh(lost))
      workers.forEach((w, i) =>
        w.postMessage({ kind: 'takeOver', slice: partOfSlice(slice, i, workers.length) } satisfies ToWorker),
      )
    },
    drain({ runId, reason }) {
      if (work.runId !== runId || work.state !== 'loading') return
      endReason = reason
      tellAll({ kind: 'drain' })
      for (const command of commands) command.drain()
    },
    abort({ runId, reason }) {
      if (work.runId !== runId || work.state !== 'loading') return
      endReason = reason
      tellAll({ kind: 'abort' })
      for (const command of commands) command.abort()
    },
    ack({ incarnation: of, worker, upTo }) {
      spool.acknowledge(of, worker, upTo)
    },
    release({ reason }) {
      say(`Released: ${reason}.`)
      leave()
      link.stop()
      exit(EXIT_DONE)
    },
  }

  /**
   * Command journeys run on this thread's side: their load is another process's. Each files its frames as a worker of
   * its own.
   */
  function commandsFor(
    runId: string,
    document: RunDocument,
    users: SlicedUser[],
    leaveMs: number,
    supplies: FetchedSupplies,
    { generator, generators }: RunSupplies,
  ): CommandLoad[] {
    return document.plan.groups.flatMap((group, g) => {
      const journey = document.journeys.find(j => j.id === group.journeyId)
      const mine = users.filter(u => u.group === g)
      if (journey?.kind !== 'command' || mine.length === 0) return []
      const worker = workers.length + g
      return [
        new CommandLoad({
          runId,
          document,
          group: g,
          journey,
          users: mine,
          supplies,
          generator,
          generators,
          incarnation,
          worker,
          leaveMs,
          health,
          onFrame: ({ bytes, sequence }) => spool.add({ incarnation, worker, sequence, bytes }),
          onTrouble: sentence => link.say({ kind: 'trouble', sentence: `${group.name}: ${sentence}` }),
          onLog: text => link.say({ kind: 'commandLog', runId, group: group.name, text }),
          onBroughtBack: (name, content) => {
            for (let from = 0; from === 0 || from < content.length; from += BROUGHT_PART_BYTES) {
              link.say({
                kind: 'broughtBack',
                runId,
                group: group.name,
                name,
                from,
                base64: content.subarray(from, from + BROUGHT_PART_BYTES).toString('base64'),
                last: from + BROUGHT_PART_BYTES >= content.length,
              })
            }
          },
          onFinished: () => takeFromWorker(-1, { kind: 'finished', dropped: 0 }),
        }),
      ]
    })
  }

  async function tryOn(id: string, runId: string, document: RunDocument, supplies: RunSupplies): Promise<void> {
    try {
      workers[0]!.postMessage({
        kind: 'try',
        id,
        runId,
        document,
        supplies: await supplyLine.fetch(supplies),
      } satisfies ToWorker)
    }
    catch (error) {
      takeFromWorker(0, { kind: 'tried', id, records: [], problem: messageOf(error) })
    }
  }

  function takeFromWorker(index: number, message: FromWorker): void {
    switch (message.kind) {
      case 'prepared': {
        if (--awaiting.prepared > 0) return
        work = { ...work, state: 'prepared' }
        return link.say({ kind: 'prepared', runId: work.runId, users: preparedUsers })
      }
      case 'unprepared':
        return link.say({ kind: 'unprepared', runId: work.runId, problem: message.problem })
      case 'tried': {
        if (message.id !== 'rehearsal')
          return link.say({ kind: 'tried', id: message.id, records: message.records, problem: message.problem })
        const steps = rehearsedSteps(message.records)
        for (const record of message.records) exemplars.add(work.runId, { ...record, keptFor: 'rehearsal' })
        return link.say({
          kind: 'rehearsed',
          runId: work.runId,
          steps: message.problem
            ? [
                ...steps,
                { journeyId: '', step: 'rehearsal', ok: false, status: 0, durationMs: 0, problem: message.problem },
              ]
            : steps,
        })
      }
      case 'exemplar':
        return exemplars.add(work.runId, message.record)
      case 'pass':
        return exemplars.addPass(work.runId, message.record)
      case 'frame': {
        return spool.add({ incarnation, worker: index, sequence: message.sequence, bytes: message.bytes })
      }
      case 'finished': {
        dropped += message.dropped
        if (--awaiting.finished > 0) return
        work = { ...work, state: 'finished' }
        exemplars.send(dropped, work.runId)
        return link.say({ kind: 'finished', runId: work.runId, reason: endReason })
      }
    }
  }

  /** What nobody has acknowledged stays on the machine, as long as that exists. */
  function leave(): void {
    const left = spool.leftBehind()
    if (!left || folder === undefined) return
    writeFileSync(join(folder, SPOOL_FILE), left, { mode: 0o600 })
    say(`${spool.waiting} ${spool.waiting === 1 ? 'frame was' : 'frames were'} never acknowledged: see ${SPOOL_FILE}.`)
  }

  // Frames a choked link held back go out as soon as it breathes.
  setInterval(() => spool.pump(TRICKLE_BYTES), 1000).unref()
  link.connect()
  return { leave }
}
