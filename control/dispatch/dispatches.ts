/**
 * What is sent out of runs: mails with their reports, and word to programs. Written down first, so that it is sent also
 * when the process ends meanwhile; tried again, less and less often, and given up after some hours.
 */
import type { RunLine } from '../../api/views'
import { mailOfRun } from '../../core/dispatch/run-mail'
import { toldOf, type ToldEvent, type Tells } from '../../core/dispatch/run-event'
import type { RunChange } from '../../core/run/life'
import type { Cancel, Clock } from '../clock'
import { ControlError, notFound } from '../errors'
import type { Reports } from '../run/reports'
import type { Runs } from '../run/runs'
import type { Dispatch, DispatchStore } from '../store/dispatches'
import type { HookSender } from './hook-sender'
import { mailOf } from './mail-of'
import type { MailSender } from './mail-server'
import { codeOf, messageOf } from '../../core/values/thrown'
import { present } from '../../core/values/present'

export interface DispatchesOptions {
  clock: Clock
  store: DispatchStore
  mail: MailSender
  hooks: HookSender
  runs: Pick<Runs, 'view'>
  reports: Pick<Reports, 'print'>
  changes: (runId: number) => RunChange[]
  /** Of a run: whether it is over, and who gets its report. */
  standing: (runId: number) => { isOver: boolean, mailTo: readonly string[] }
  /** Where people find this house: `https://load.example:4700`. */
  address: () => string
  onChange: () => void
}

/** After each failure it is tried again in so long, ms; after the last of them no more. */
export const AGAIN_MS = [5_000, 30_000, 120_000, 600_000, 3_600_000, 21_600_000] as const
/** What changes within so long is told of together, ms. */
const TOGETHER_MS = 100
/** Sent at the same time at most. */
const AT_ONCE = 4

export class Dispatches {
  private timer: Cancel | undefined
  private readonly underWay = new Set<number>()
  /** Runs that have changed, and are told of in a moment. */
  private readonly changed = new Set<number>()
  private isClosed = false

  constructor(private readonly options: DispatchesOptions) {
    this.wake()
  }

  latest(): Dispatch[] {
    return this.options.store.latest()
  }

  /** Something of a run has changed: everyone who is to be told is, once of each; changes of one moment together. */
  runChanged(id: number): void {
    if (this.isClosed || this.changed.has(id)) return
    const { hooks, standing, clock } = this.options
    const told = hooks.all()
    const { isOver, mailTo } = standing(id)
    if (told.length === 0 && !(isOver && mailTo.length > 0)) return
    this.changed.add(id)
    clock.after(TOGETHER_MS, () => {
      this.changed.delete(id)
      if (!this.isClosed) this.tell(id)
    })
  }

  private tell(id: number): void {
    const { store, clock, hooks, changes, standing, runs } = this.options
    const { line } = runs.view(id)
    // What was led elsewhere was told there.
    if (line.calibrates || line.openedFrom !== undefined) return
    const now = clock.now()
    const { isOver, mailTo } = standing(id)
    const written = [
      ...hooks.all().flatMap(hook =>
        changes(id)
          .filter(change => change.at >= hook.createdAt)
          .flatMap(change =>
            toldOf(change, line.verdict !== undefined).filter(t => hook.tells.includes(t)).map(tells =>
              store.write(
                `hook ${hook.id} ${tells} ${id} ${change.at} ${change.event} ${change.to} ${change.about ?? ''}`,
                {
                  hookId: hook.id,
                  recipient: hook.address,
                  runId: id,
                  about: tells === 'answer' ? line.sentence : change.reason,
                  content: JSON.stringify(this.eventOf(line, change, tells)),
                },
                now,
              )))),
      ...(isOver ? mailTo : []).map(recipient =>
        store.write(`mail ${id} ${recipient}`, { recipient, runId: id, about: line.sentence }, now)),
    ]
    if (written.includes(true)) this.wake()
  }

  /** The report of a run to somebody, by hand. @throws ControlError */
  mail(runId: number, to: readonly string[]): void {
    const { store, clock, mail, runs } = this.options
    if (!mail.server)
      throw new ControlError('mail', 409, 'No mail server is known.', 'A keeper gives one under People, Mail and hooks.')
    const { line } = runs.view(runId)
    const now = clock.now()
    for (const recipient of new Set(to)) store.write(`mail ${runId} ${recipient} ${now}`, { recipient, runId, about: line.sentence }, now)
    this.wake()
  }

  /** @throws ControlError when it is not there, or was sent */
  again(id: number): void {
    if (!this.options.store.again(id, this.options.clock.now())) throw notFound(`dispatch ${id} that was not sent`)
    this.wake()
  }

  /** Sends one thing of no run, at once. @throws ControlError in words of the one that did not take it */
  async tryHook(id: number): Promise<void> {
    const { hooks, clock } = this.options
    const now = clock.now()
    const event: ToldEvent = { kind: 'try', at: new Date(now).toISOString(), says: 'Somebody tries whether this gets through.' }
    await tried(hooks.of(id).address, () => hooks.send(id, JSON.stringify(event), now))
  }

  /** The same by mail. @throws ControlError */
  async tryMail(to: string): Promise<void> {
    const says = { subject: 'Vornak can send mail', text: 'Reports of runs will come from here.\n', html: '<p>Reports of runs will come from here.</p>' }
    await tried(to, () => this.options.mail.send({ to, ...says, attachments: [] }))
  }

  close(): void {
    this.isClosed = true
    this.timer?.cancel()
    void this.options.hooks.close()
  }

  /** Sends what is due, and looks again when the next one is. */
  private wake(): void {
    if (this.isClosed) return
    const { store, clock } = this.options
    this.timer?.cancel()
    const due = store.due(clock.now()).filter(d => !this.underWay.has(d.id))
    for (const dispatch of due.slice(0, AT_ONCE - this.underWay.size)) void this.send(dispatch)
    this.options.onChange()
    const nextAt = store.nextAt()
    // What is under way wakes it when it is done.
    if (this.underWay.size === 0 && nextAt !== undefined)
      this.timer = clock.after(Math.max(100, nextAt - clock.now()), () => this.wake())
  }

  private async send(dispatch: Dispatch): Promise<void> {
    const { store, clock, hooks } = this.options
    this.underWay.add(dispatch.id)
    let trouble: string | undefined
    try {
      if (dispatch.hookId === undefined) await this.sendMail(dispatch)
      else await hooks.send(dispatch.hookId, dispatch.content ?? '', clock.now())
    }
    catch (error) {
      trouble = wordsOf(error)
    }
    this.underWay.delete(dispatch.id)
    if (this.isClosed) return
    const waitMs = AGAIN_MS[dispatch.attempts]
    if (trouble === undefined) store.sent(dispatch.id, clock.now())
    else store.failed(dispatch.id, trouble, waitMs === undefined ? undefined : clock.now() + waitMs)
    this.wake()
  }

  private async sendMail({ runId, recipient }: Dispatch): Promise<void> {
    const { runs, reports, mail } = this.options
    if (!mail.server) throw new Error('No mail server is known.')
    const { line, document, summary } = runs.view(present(runId, 'a mail is about a run'))
    const text = mailOfRun({
      id: line.id,
      name: line.name || line.planName,
      document,
      sentence: line.sentence,
      ...(summary ? { summary } : {}),
      address: this.addressOf(line.id),
    })
    const pdf = summary ? await reports.print(line.id, 'pdf') : undefined
    // A report printed as PDF is bytes; only other forms are text.
    await mail.send(mailOf(text, recipient, line.id, pdf as Uint8Array | undefined))
  }

  private eventOf(line: RunLine, change: RunChange, kind: Tells): ToldEvent {
    return {
      kind,
      at: new Date(change.at).toISOString(),
      says: kind === 'answer' ? line.sentence : change.reason,
      run: {
        id: line.id,
        name: line.name,
        plan: line.planName,
        planId: line.planId,
        question: line.question,
        target: line.target,
        build: line.build,
        state: change.to,
        address: this.addressOf(line.id),
      },
      ...(kind === 'state' ? { change: { from: change.from, to: change.to } } : {}),
      ...(kind === 'answer' && line.verdict !== undefined
        ? { answer: { verdict: line.verdict, sentence: line.sentence, soundness: line.soundness ?? '' } }
        : {}),
      ...(kind === 'broken' && change.about !== undefined ? { objective: change.about } : {}),
    }
  }

  private addressOf(id: number): string {
    return `${this.options.address()}/runs/${id}`
  }
}

async function tried(recipient: string, send: () => Promise<void>): Promise<void> {
  try {
    await send()
  }
  catch (error) {
    if (error instanceof ControlError) throw error
    throw new ControlError('not-sent', 502, `${recipient} has not taken it: ${wordsOf(error)}`, 'Correct the address or the server, and try again.')
  }
}

function wordsOf(error: unknown): string {
  return (messageOf(error) || codeOf(error) || 'nobody knows why').slice(0, 300)
}
