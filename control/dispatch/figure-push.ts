/**
 * Figures of runs on their way out while they load: sent to one address of the house every few seconds, in the open
 * telemetry protocol. What does not get through is not kept: the next tells everything since the beginning again.
 */
import { Agent, request } from 'undici'
import { otlpOfMetrics } from '../../core/formats/otlp-of-metrics'
import type { MetricFamily } from '../../core/formats/open-metrics'
import { UNDER_LOAD, type RunState } from '../../core/run/life'
import { RELEASE } from '../../protocol/version'
import type { Cancel, Clock } from '../clock'
import { ControlError, notFound } from '../errors'
import type { FactStore } from '../store/facts'
import type { Sealing } from '../store/sealing'
import { messageOf } from '../../core/values/thrown'
import { present } from '../../core/values/present'
import { fromStore } from '../store/from-store'

export interface FigureGoal {
  /** Where metrics are taken: often ends in `/v1/metrics`. */
  address: string
  /** Sent so often, s. */
  everyS: number
}

/** How it went. Moments in ms since 1970. */
export interface FigureStanding {
  sentAt?: number
  /** Why the last was not taken. */
  trouble?: string
}

/** A run as far as it matters here. */
export interface PushedRun {
  id: number
  state: RunState
  startAt: number | undefined
}

export interface FigurePushOptions {
  clock: Clock
  facts: FactStore
  sealing: Sealing
  /** Runs that are led, calibrations left out. */
  active: () => PushedRun[]
  families: (runId: number) => Promise<MetricFamily[]>
  onChange: () => void
}

const GOAL = 'figure-goal'
const SECRET = 'figure-goal-authorization'
const LOOK_MS = 1000
const TIMEOUT_MS = 10_000

export class FigurePush {
  standing: FigureStanding = {}
  private readonly agent = new Agent({ headersTimeout: TIMEOUT_MS, bodyTimeout: TIMEOUT_MS })
  private readonly ticker: Cancel
  /** Runs that load, by when they are due next, ms since 1970. */
  private readonly due = new Map<number, { at: number, startAt: number }>()
  private isBusy = false

  constructor(private readonly options: FigurePushOptions) {
    this.ticker = options.clock.every(LOOK_MS, () => void this.look())
  }

  get goal(): (FigureGoal & { hasSecret: boolean }) | undefined {
    const kept = this.options.facts.get(GOAL)
    if (kept === undefined) return undefined
    return { ...fromStore<FigureGoal>(kept), hasSecret: this.options.facts.get(SECRET) !== undefined }
  }

  /** @param authorization value of that header; left out: that of before, for the same address @throws ControlError */
  setGoal(goal: FigureGoal, authorization: string | undefined): void {
    const { facts, sealing } = this.options
    if (!URL.canParse(goal.address) || !/^https?:$/.test(new URL(goal.address).protocol) || new URL(goal.address).username !== '')
      throw new ControlError(
        'form',
        400,
        `“${goal.address.slice(0, 100)}” is no address that figures can be sent to.`,
        'Write one like https://metrics.example/v1/metrics, without a name or password.',
      ).at('address')
    const isSame = this.goal?.address === goal.address
    facts.set(GOAL, JSON.stringify(goal))
    if (authorization !== undefined)
      facts.set(SECRET, sealing.seal(authorization, placeOf(goal.address)).toString('base64'))
    else if (!isSame) facts.drop(SECRET)
    this.standing = {}
    this.options.onChange()
  }

  dropGoal(): void {
    this.options.facts.drop(GOAL)
    this.options.facts.drop(SECRET)
    this.standing = {}
    this.due.clear()
    this.options.onChange()
  }

  /** Sends something of no run, at once. @throws ControlError in words of the one that did not take it */
  async try(): Promise<void> {
    const { clock } = this.options
    if (!this.goal) throw notFound('address that figures are sent to')
    const now = clock.now()
    const family: MetricFamily = { name: 'vornak_try', type: 'gauge', help: 'Somebody tries whether this gets through.', samples: [{ labels: {}, value: 1 }] }
    try {
      await this.send([family], now)
    }
    catch (error) {
      throw new ControlError('not-sent', 502, `It was not taken: ${messageOf(error)}`, 'Look at the address, and at what answers there.')
    }
  }

  async close(): Promise<void> {
    this.ticker.cancel()
    await this.agent.destroy()
  }

  private async look(): Promise<void> {
    const { goal } = this
    if (!goal || this.isBusy) return
    const now = this.options.clock.now()
    const loading = this.options.active().flatMap(({ id, state, startAt }) =>
      UNDER_LOAD.includes(state) && startAt !== undefined ? [{ id, startAt }] : [],
    )
    for (const { id, startAt } of loading) if (!this.due.has(id)) this.due.set(id, { at: now, startAt })
    this.isBusy = true
    try {
      for (const [id, { at, startAt }] of this.due) {
        // One that is over is told of once more, as it ended.
        const isOver = !loading.some(r => r.id === id)
        if (!isOver && now < at) continue
        if (isOver) this.due.delete(id)
        else this.due.set(id, { at: now + goal.everyS * 1000, startAt })
        await this.tell(id, startAt)
      }
    }
    finally {
      this.isBusy = false
    }
  }

  private async tell(id: number, startAt: number): Promise<void> {
    const { clock, families, onChange } = this.options
    const { trouble: before } = this.standing
    try {
      await this.send(await families(id), startAt)
      this.standing = { sentAt: clock.now() }
    }
    catch (error) {
      this.standing = { ...this.standing, trouble: messageOf(error) }
    }
    if (before !== this.standing.trouble) onChange()
  }

  /** @throws Error in words */
  private async send(families: readonly MetricFamily[], startMs: number): Promise<void> {
    const { clock, facts, sealing } = this.options
    const { address } = present(this.goal, 'an address, where something is sent')
    const sealed = facts.get(SECRET)
    const answer = await request(address, {
      dispatcher: this.agent,
      method: 'POST',
      headers: {
        'content-type': 'application/json',
        ...(sealed === undefined ? {} : { authorization: sealing.unseal(Buffer.from(sealed, 'base64'), placeOf(address)) }),
      },
      body: JSON.stringify(otlpOfMetrics(families, { startMs, nowMs: clock.now() }, RELEASE)),
      signal: AbortSignal.timeout(TIMEOUT_MS),
    })
    await answer.body.dump()
    // It is not followed elsewhere: this address was agreed to.
    if (answer.statusCode < 200 || answer.statusCode > 299) throw new Error(`it answered ${answer.statusCode}.`)
  }
}

/** What it is told is sealed for one address. */
const placeOf = (address: string) => `figures/${address}`
