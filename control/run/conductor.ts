/**
 * Leads runs through their life: looks at each a few times a second, lets its phase decide, and applies the table.
 * Takes runs up again after a restart, from the store alone.
 */
import { isDeepStrictEqual } from 'node:util'
import type { FromGenerator } from '../../protocol/messages'
import type { Clock } from '../clock'
import type { Connection } from '../link/generator-hub'
import { ControlError } from '../errors'
import { ProviderSilent } from '../machines/providers/contract'
import type { Errand, OutboxStore } from '../store/outbox'
import type { FactStore } from '../store/facts'
import { judgedValues } from '../target/judged-values'
import { isNoRoom, type Disk } from '../store/disk'
import type { Store } from '../store/open'
import type { Machine } from '../store/machines'
import type { SecondFigures } from '../../core/merge/second-figures'
import type { RunDocument } from '../../core/run/document'
import type { CalibrationEvidence } from '../../core/capacity/calibration'
import { sayBinds, sayVerified, WHY_INCONCLUSIVE } from '../../core/capacity/estimate'
import type { RunSummary } from '../../core/result/summary'
import { runOfMachine, startMerging, type ActiveRun, type ActiveRuns, type PhaseTools, type Verdict } from './active-run'
import { meetsAtTarget, noLongerApproved, noRoom } from './approved'
import { arming } from './arming'
import { draining } from './draining'
import { asGathered, gathering } from './gathering'
import { afterRunEvent, ENDED, type RunChange, type RunEvent, type RunState } from '../../core/run/life'
import { Intake } from './intake'
import { loading } from './loading'
import { rehearsal } from './rehearsal'
import { rollCall } from './roll-call'
import { Parts } from './parts'
import { Steering } from './steering'
import { leaveWorkOfEnded } from './work-of-ended'
import { brokenRemarks } from '../../core/result/broken-remarks'
import type { BrokenStretch } from '../../core/result/stretches'
import { StressWatch } from '../../core/soundness/stress-watch'
import { messageOf } from '../../core/values/thrown'
import { present } from '../../core/values/present'
import type { StoredRun } from '../store/runs'

/** How often runs are looked at, ms. */
const LOOK_MS = 100
/** How often the machines of a gathering run are looked at, ms. */
const GATHER_LOOK_MS = 400
/** Pause before an errand that failed is tried again, ms. */
const ERRAND_RETRY_MS = 2000
const ERRAND_RETRY_MOST_MS = 60_000

/** How a run ends that cannot be led on before its load. */
const BROKEN_OFF: Partial<Record<RunState, RunEvent>> = {
  gathering: 'machinesLacking',
  rollCall: 'rollCallFailed',
  rehearsing: 'rehearsalFailed',
  armed: 'armingFailed',
}

/** A merge that could not go on is begun again after this, ms. */
const MERGE_AGAIN_MS = 2000
/** When a process last led a run, by name of the fact, and how often that is noted, ms. */
const ALIVE_FACT = 'aliveAt'
const NOTE_ALIVE_MS = 1000

/** What it touches when nobody leads a run in this state. */
const TOUCHED: Partial<Record<RunState, string>> = {
  gathering: 'Machines that were ordered came meanwhile, or come now.',
  rollCall: 'The roll is called again.',
  rehearsing: 'It is rehearsed again.',
  armed: 'Generators that had not heard the start moment hear it now, or the run fails.',
  warming:
    'Generators drove on by themselves, held rates by the pass times last known; nobody could steer, stop or replace anything. What they measured is handed over now.',
  loading:
    'Generators drove on by themselves, held rates by the pass times last known; nobody could steer, stop or replace anything. What they measured is handed over now.',
  draining: 'Users left by themselves; what was measured is handed over now.',
}

/** The same of a run that is told from elsewhere. */
const TOLD_AGAIN = 'What was told before and answered is safe; those who got no answer tell it again.'

/** How often in a run it is told that an objective is broken, or no longer. */
const MOST_TOLD = 20

export interface ConductorOptions extends PhaseTools {
  facts: FactStore
  store: Store
  outbox: OutboxStore
  clock: Clock
  onChange: (runId: number) => void
  /** Where the runs it leads are kept, for others to see. */
  active: ActiveRuns
  /** Whether there is room for what runs write. */
  disk: Pick<Disk, 'trouble'>
}

export class Conductor {
  private readonly active: ActiveRuns
  /** What generators bring, on its way to the merge. */
  readonly intake: Intake
  private busyWithErrands = false
  private errandsNotBefore = 0
  private aliveNotedAt = Number.NEGATIVE_INFINITY
  private readonly ticker

  constructor(private readonly options: ConductorOptions) {
    this.active = options.active
    this.intake = new Intake(this.active, options)
    for (const stored of options.runs.unended()) {
      this.takeUp(stored.id)
      this.noteAway(present(this.active.get(stored.id), 'the run that was just taken up'))
    }
    this.ticker = options.clock.every(LOOK_MS, () => this.look())
  }

  /** An earlier process led this run, and ended: what that touched is part of the run's story. */
  private noteAway({ id, stored, document }: ActiveRun): void {
    const { runs, clock, facts } = this.options
    const now = clock.now()
    const last = Math.max(Number(facts.get(ALIVE_FACT) ?? 0), runs.changes(id).at(-1)?.at ?? stored.createdAt)
    const at = (ms: number) =>
      stored.startAt === undefined
        ? new Date(ms).toISOString().slice(11, 19) + ' UTC'
        : `+${Math.max(0, Math.round((ms - stored.startAt) / 1000))} s`
    runs.remark(
      id,
      stored.state,
      'vornakAway',
      `Vornak was away from ${at(last)} to ${at(now)} (${Math.max(0, Math.round((now - last) / 1000))} s). ${document.claimed ? TOLD_AGAIN : (TOUCHED[stored.state] ?? 'Nothing was under way for it.')}`,
      now,
    )
  }

  /** Begins to lead a run that is in the store. */
  takeUp(runId: number): void {
    const stored = this.storedOf(runId)
    this.active.set(runId, {
      id: runId,
      document: stored.document,
      stored,
      since: this.options.clock.now(),
      generators: [],
      rehearsals: new Map(),
      unprepared: new Map(),
      comingBack: new Map(),
      parts: new Parts(),
      asides: new Map(),
      mergeNotBefore: 0,
      shifted: this.options.runs.shifted(runId),
      toldTaken: new WeakMap(),
      told: new WeakMap(),
      steering: new Steering(stored.document),
      stress: new StressWatch(stored.document),
      brokenSoFar: [],
      toldNotReached: new Set(),
      merging: false,
      closing: false,
      targetAwaited: false,
      unmade: { times: 0, sentence: '' },
      lookedAt: Number.NEGATIVE_INFINITY,
      clocksNotedAt: Number.NEGATIVE_INFINITY,
      approvedAt: Number.NEGATIVE_INFINITY,
      prolonged: false,
      salvaged: new Map(),
    })
  }

  /** Since when nothing was heard of generators of a run, by their numbers. */
  silentOf(runId: number): ReadonlyMap<number, number> {
    return this.active.get(runId)?.parts.silent() ?? new Map<number, number>()
  }

  /** Lets users finish, then ends. @returns false when the run cannot be stopped any more */
  stop(runId: number, reason: string): boolean {
    return this.end(runId, 'stopAsked', 'stopped', reason)
  }

  /** Ends at once. */
  abort(runId: number, reason: string): boolean {
    return this.end(runId, 'abortAsked', 'aborted', reason)
  }

  onMessage(connection: Connection, message: FromGenerator): void {
    if (message.kind === 'rollCallReply') {
      const { kind: _, ...report } = message
      return this.options.rollCaller.take(connection, report)
    }
    const run = runOfMachine(this.active, connection.machineId, this.options.machines)
    if (!run) return
    if (message.kind === 'unprepared') run.unprepared.set(connection.machineId, message.problem)
    this.intake.take(run, connection, message)
    if (message.kind === 'rehearsed') {
      run.rehearsals.set(connection.machineId, message.steps)
      run.steering = new Steering(run.document, [...run.rehearsals.values()].flat())
    }
    if (message.kind === 'trouble')
      this.options.runs.remark(
        run.id,
        run.stored.state,
        'trouble',
        `${connection.machineId}: ${message.sentence}`,
        this.options.clock.now(),
      )
  }

  /** What was measured is merged again from what the run's file holds; whatever was not safe is sent again. */
  onBroken(sentence: string, runId?: number): void {
    const { runs, clock } = this.options
    for (const run of this.active.values()) {
      if (!run.merging || (runId !== undefined && run.id !== runId)) continue
      run.merging = false
      run.mergeNotBefore = clock.now() + MERGE_AGAIN_MS
      runs.remark(
        run.id,
        run.stored.state,
        'mergeBroken',
        `${sentence} The merge goes on from what was safe.`,
        clock.now(),
      )
    }
  }

  onSeconds(runId: number, seconds: SecondFigures[]): void {
    const run = this.active.get(runId)
    if (!run) return
    run.steering.note(seconds)
    run.calibrating?.note(seconds)
    // A calibration goes to the limits on purpose.
    if (run.document.calibration || run.document.claimed) return
    for (const sentence of run.stress.note(seconds, run.generators))
      this.options.runs.remark(runId, run.stored.state, 'generatorStressed', sentence, this.options.clock.now())
  }

  /**
   * Told once for each stretch when it begins, and once when it is over: what was told is in the run's events.
   *
   * @returns whether anything is otherwise than it was
   */
  onBrokenSoFar(runId: number, stretches: BrokenStretch[], untilS: number): boolean {
    const run = this.active.get(runId)
    if (!run) return false
    const isNews = !isDeepStrictEqual(run.brokenSoFar, stretches)
    run.brokenSoFar = stretches
    const { startAt, state } = run.stored
    const { clock, runs } = this.options
    const told: Pick<RunChange, 'event' | 'about' | 'at'>[] = runs.changes(runId)
    for (const { event, about, reason, fromS } of brokenRemarks(stretches, untilS, run.document)) {
      const before = told.filter(c => c.event === event && c.about === about)
      // One that comes and goes all the time is seen on the stave.
      if (before.length >= MOST_TOLD || before.some(c => c.at >= (startAt ?? 0) + fromS * 1000)) continue
      const at = clock.now()
      runs.remark(runId, state, event, reason, at, about)
      told.push({ event, about, at })
    }
    return isNews
  }

  brokenSoFarOf(runId: number): BrokenStretch[] {
    return this.active.get(runId)?.brokenSoFar ?? []
  }

  /** The first word of a run from elsewhere. @param startAt moment of its second 0, ms since 1970 */
  firstWord(runId: number, startAt: number): void {
    const run = this.active.get(runId)
    if (run?.stored.state !== 'armed') return
    this.options.runs.setStart(runId, startAt)
    this.apply(run, { event: 'started', reason: 'the first lines came' })
    startMerging(run, this.options)
  }

  /** More came up in what is told from elsewhere. */
  onGrown(runId: number, document: RunDocument): void {
    const run = this.active.get(runId)
    if (!run) return
    this.options.runs.setDocument(runId, document)
    run.document = document
    run.stored = this.storedOf(runId)
    this.options.onChange(runId)
  }

  onFinished(runId: number, generators: number[]): void {
    for (const g of generators) this.active.get(runId)?.parts.finish(g)
  }

  shutDown(): void {
    this.ticker.cancel()
  }

  private look(): void {
    this.noteAlive()
    for (const run of this.active.values()) {
      const why = noLongerApproved(run, this.options) ?? noRoom(run, this.options.disk)
      if (why && this.end(run.id, 'stopAsked', 'stopped', why)) continue
      const verdict = this.judgeSafely(run)
      if (verdict) this.apply(run, verdict)
    }
    leaveWorkOfEnded(this.options.hub, this.active)
    void this.runErrands()
  }

  /** So that the next process can tell how long nobody led. */
  private noteAlive(): void {
    const now = this.options.clock.now()
    if (this.active.size === 0 || now - this.aliveNotedAt < NOTE_ALIVE_MS) return
    this.aliveNotedAt = now
    try {
      this.options.facts.set(ALIVE_FACT, String(Math.round(now)))
    }
    catch (error) {
      // A run is led all the same; the next process takes it for longer away.
      if (!isNoRoom(error)) throw error
    }
  }

  /**
   * What a run cannot be led on with and is known (a secret that no longer fits, say) ends it in words before its load;
   * anything else is told once and tried again. Neither touches another run.
   */
  private judgeSafely(run: ActiveRun): Verdict | undefined {
    try {
      return this.judge(run)
    }
    catch (error) {
      const { state } = run.stored
      const known = error instanceof ControlError
      const reason = known ? `${error.sentence} ${error.remedy}` : messageOf(error)
      const event = known ? BROKEN_OFF[state] : undefined
      if (event) return { event, reason }
      const told = this.options.runs.changes(run.id).some(c => c.event === 'trouble' && c.reason === reason)
      if (!told) this.options.runs.remark(run.id, state, 'trouble', reason, this.options.clock.now())
      return undefined
    }
  }

  private judge(run: ActiveRun): Verdict | undefined {
    switch (run.stored.state) {
      case 'queued':
        return this.mayBegin(run) ? { event: 'turnCame', reason: 'nothing else runs against this target' } : undefined
      case 'gathering':
        return this.gather(run)
      case 'rollCall':
        return rollCall(run, this.options)
      case 'rehearsing':
        return rehearsal(run, this.options)
      case 'armed':
        return arming(run, this.options)
      case 'warming':
      case 'loading':
        return loading(run, this.options)
      case 'draining':
        return draining(run, this.options, () => this.settle(run))
      default:
        return undefined
    }
  }

  private gather(run: ActiveRun): Verdict | undefined {
    const now = this.options.clock.now()
    if (now - run.lookedAt < GATHER_LOOK_MS) return undefined
    run.lookedAt = now
    return gathering(run, this.options)
  }

  /** Goes with the machines that are there; the load is lowered in proportion. @returns why not, when it cannot */
  goWith(runId: number): string | undefined {
    const { runs, machines, fleet, clock, store } = this.options
    const run = this.active.get(runId)
    if (run?.stored.state !== 'gathering') return 'The run is not gathering machines.'
    const crew = machines.ofRun(runId)
    const document = asGathered(run.document, crew)
    if (!document?.wentWith) return 'A location has no machine at all: without it the shares cannot be kept.'
    const { machines: there, wanted, factor } = document.wentWith
    const places = new Map<string, number>()
    store.transaction(() => {
      runs.setDocument(runId, document)
      for (const machine of [...crew].sort((a, b) => a.place - b.place)) {
        if (machine.state === 'enrolled' || machine.state === 'ready') {
          const place = places.get(machine.location) ?? 0
          places.set(machine.location, place + 1)
          machines.setPlace(runId, machine.id, place)
        }
        else machines.replace(runId, machine.id, clock.now())
      }
      runs.remark(
        runId,
        'gathering',
        'mark',
        `Goes with ${there} of ${wanted} machines: every level is lowered to ${(factor * 100).toFixed(0)} %.`,
        clock.now(),
      )
    })()
    for (const machine of crew)
      if (machine.state !== 'enrolled' && machine.state !== 'ready')
        void fleet.releaseMachine(machine.id, 'the run goes without it').catch(() => {
          /* asked for again at every look */
        })
    run.document = document
    this.apply(run, {
      event: 'machinesReady',
      reason: `goes with ${there} of ${wanted} machines, load at ${(factor * 100).toFixed(0)} %`,
    })
    return undefined
  }

  /** A provider will take a machine back: told to those who watch. Its generator learns of it in time. */
  onReclaim(machine: Machine): void {
    const { runs, clock } = this.options
    const run = machine.runId === undefined ? undefined : this.active.get(machine.runId)
    if (!run) return
    const leftMs = (machine.reclaimAt ?? 0) - clock.now()
    runs.remark(
      run.id,
      run.stored.state,
      'reclaimNotice',
      `${machine.name} will be taken back in ${Math.max(0, Math.round(leftMs / 1000))} s: its users leave before.`,
      clock.now(),
      machine.name,
    )
    this.options.onChange(run.id)
  }

  /** One run at a time per target, and per host that it sends to, whatever it is called: earlier ones first. */
  private mayBegin(run: ActiveRun): boolean {
    return ![...this.active.values()].some(
      other => other.id < run.id && meetsAtTarget(other.document, run.document),
    )
  }

  private apply(run: ActiveRun, { event, reason }: Verdict): boolean {
    const { runs, outbox, clock, store, onChange } = this.options
    const move = afterRunEvent(run.stored.state, event)
    if (!move) return false
    const ended = ENDED.includes(move.to)
    store.transaction(() => {
      runs.change(run.id, { at: clock.now(), from: run.stored.state, to: move.to, event, reason }, ended)
      for (const errand of move.errands) outbox.write(errand, String(run.id), clock.now())
    })()
    run.stored = this.storedOf(run.id)
    run.since = clock.now()
    if (ended) this.active.delete(run.id)
    onChange(run.id)
    return true
  }

  private end(runId: number, event: RunEvent, ending: 'stopped' | 'aborted', reason: string): boolean {
    const run = this.active.get(runId)
    if (!run || !afterRunEvent(run.stored.state, event)) return false
    this.options.runs.setEnding(runId, ending)
    return this.apply(run, { event, reason })
  }

  private async settle(run: ActiveRun): Promise<void> {
    const { ingest, runs, machines, clock } = this.options
    try {
      const crew = run.generators.flatMap(g => machines.machine(g.machineId) ?? [])
      const summary = await ingest.settle(run.id, {
        // Whose last word was brought back from its machine is not missing anything.
        goneAtSecond: run.parts
          .all('gone', 'absent')
          .flatMap(([g, part]) => (part.is === 'gone' && part.isComplete ? [] : [[g, part.sinceSecond]])),
        lost: run.parts.all('gone').map(([g]) => run.generators[g]!.name),
        absent: run.parts.all('absent').map(([g]) => run.generators[g]!.name),
        clockUncertaintyMs: crew.flatMap((m): [string, number][] =>
          m.clockMs === undefined ? [] : [[m.name, m.clockMs]],
        ),
        rehearsed: this.storedOf(run.id).rehearsed,
        ...this.rollCallFacts(run),
        notReached: run.steering.notReached(),
        target: judgedValues(run.document, this.options.targetFile(run.id), run.stored.startAt ?? 0),
        ...endedEarly(run, runs.changes(run.id)),
      })
      runs.setSummary(
        run.id,
        run.calibrating?.over ? withCalibration(summary, run.calibrating.evidence(), run.document) : summary,
      )
    }
    catch (error) {
      const sentence = `The result could not be made: ${messageOf(error)}`
      runs.remark(run.id, run.stored.state, 'trouble', sentence, clock.now())
      run.unmade = { times: run.unmade.times + 1, sentence }
      run.merging = false
      run.mergeNotBefore = clock.now() + MERGE_AGAIN_MS * 2 ** (run.unmade.times - 1)
      run.closing = false
      return
    }
    run.stored = this.storedOf(run.id)
  }

  private storedOf(runId: number): StoredRun {
    return present(this.options.runs.run(runId), `run ${runId}, which is led`)
  }

  /** Round trip of the real path per location (the least any of its generators saw), and what the roll call noted. */
  private rollCallFacts(run: ActiveRun) {
    const { rollCaller, machines } = this.options
    const { called, findings } = rollCaller.judge(machines.ofRun(run.id), run.id)
    const pathMs: Record<string, number> = {}
    for (const { location, report } of called)
      for (const { ok, connectMs } of report?.reached ?? [])
        if (ok) pathMs[location] = Math.min(pathMs[location] ?? Number.POSITIVE_INFINITY, connectMs)
    const names = new Map(called.map(c => [c.id, c.name]))
    return {
      pathMs,
      rollCallNotes: findings
        .filter(f => f.weight === 'note')
        .map(f => ({ code: f.code, generator: present(names.get(f.machine), 'a machine that was called'), sentence: f.sentence, means: f.means })),
    }
  }

  /** Carries out what the outbox holds, in order, striking off what is done. */
  private async runErrands(): Promise<void> {
    const { outbox, clock } = this.options
    if (this.busyWithErrands || clock.now() < this.errandsNotBefore) return
    this.busyWithErrands = true
    try {
      for (const errand of outbox.waiting()) {
        try {
          await this.carryOut(errand.kind, Number(errand.subject))
          outbox.strikeOff(errand.id)
          this.options.onChange(Number(errand.subject))
        }
        catch (error) {
          // Whatever it was: the errand is not done, the others go on, and it is tried again, less and less often.
          const message = messageOf(error)
          outbox.noteTrouble(errand.id, message)
          if (!(error instanceof ProviderSilent)) this.tellFault(Number(errand.subject), errand, message)
          this.errandsNotBefore = clock.now() + Math.min(ERRAND_RETRY_MOST_MS, ERRAND_RETRY_MS * 2 ** errand.attempts)
        }
      }
    }
    finally {
      this.busyWithErrands = false
    }
  }

  /** Said once for each errand: what nobody thought of is no provider that is slow. */
  private tellFault(runId: number, { kind, attempts }: Errand, message: string): void {
    const { runs, clock } = this.options
    const run = runs.run(runId)
    if (!run || attempts > 0) return
    const what = kind === 'release' ? 'giving its machines back' : 'asking for its machines'
    runs.remark(runId, run.state, 'trouble', `${what} failed, and is tried again: ${message}`, clock.now())
  }

  private async carryOut(kind: string, runId: number): Promise<void> {
    const { fleet, runs, clock } = this.options
    const run = runs.run(runId)
    if (!run) return
    if (kind === 'askForMachines' && !ENDED.includes(run.state)) {
      fleet.place(runId, run.document)
      await fleet.fill()
    }
    if (kind !== 'release') return
    // Machines may be kept for the next run, until their lease ends by itself.
    const keepMs = run.state === 'settled' ? run.document.plan.keepMachinesMin * 60_000 : 0
    if (keepMs > 0) await fleet.keep(runId, clock.now() + keepMs, `run ${runId} is over; kept warm`)
    else await fleet.release(runId, `run ${runId} is ${run.state}`)
  }
}

/** When and how somebody ended it, where somebody did. */
function endedEarly(
  { stored }: ActiveRun,
  changes: readonly RunChange[],
): { ended?: { how: 'stopped' | 'aborted', atS: number } } {
  if (stored.ending === 'settled' || stored.startAt === undefined) return {}
  const asked = changes.find(c => c.event === 'stopAsked' || c.event === 'abortAsked')
  return asked
    ? { ended: { how: stored.ending, atS: Math.max(0, Math.floor((asked.at - stored.startAt) / 1000)) } }
    : {}
}

/** The answer of a calibration is what it found. */
function withCalibration(
  summary: RunSummary,
  calibration: CalibrationEvidence,
  { calibration: task }: RunDocument,
): RunSummary {
  const { estimate } = calibration
  const sentence =
    task?.kind === 'verify'
      ? sayVerified(calibration).sentence
      : estimate.outcome === 'inconclusive'
        ? WHY_INCONCLUSIVE[present(estimate.why, 'why nothing was found')].sentence
        : sayBinds(estimate)
  return { ...summary, calibration, answer: { ...summary.answer, verdict: 'none', sentence } }
}
