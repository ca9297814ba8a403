/**
 * Sizes plans in a worker thread, so that an exact search holds nobody up; what was asked before is answered from
 * memory.
 */
import { Worker } from 'node:worker_threads'
import type { SizingAround } from '../../core/fleet/place'
import { sizePlan, type LocationSizing } from '../../core/fleet/sizing'
import type { Plan } from '../../core/plan/document'
import { forgetOldest } from '../../core/values/forget-oldest'

export interface ToSizingWorker {
  id: number
  plan: Plan
  around: SizingAround
}
export interface FromSizingWorker {
  id: number
  sizing: LocationSizing[]
}

/** Answers kept; while one types, most questions come again. */
const MOST_KEPT = 100

export class Sizer {
  private worker: Worker | undefined
  private readonly waiting = new Map<
    number,
    { resolve: (sizing: LocationSizing[]) => void, reject: (error: Error) => void }
  >()

  private readonly kept = new Map<string, LocationSizing[]>()
  private nextId = 1

  /** @param program file of the worker; it is started with the first question */
  constructor(private readonly program: string) {}

  /** @param plan with every level in users */
  async size(plan: Plan, around: SizingAround): Promise<LocationSizing[]> {
    const key = keyOf(plan, around)
    const kept = this.kept.get(key)
    if (kept) return kept
    return this.keep(key, await this.ask(plan, around))
  }

  /** The same at once, on this thread: for lists, which mostly ask what was asked before. */
  sizeNow(plan: Plan, around: SizingAround): LocationSizing[] {
    const key = keyOf(plan, around)
    return this.kept.get(key) ?? this.keep(key, sizePlan(plan, around))
  }

  async stop(): Promise<void> {
    await this.worker?.terminate()
  }

  private keep(key: string, sizing: LocationSizing[]): LocationSizing[] {
    forgetOldest(this.kept, MOST_KEPT - 1)
    this.kept.set(key, sizing)
    return sizing
  }

  private ask(plan: Plan, around: SizingAround): Promise<LocationSizing[]> {
    const id = this.nextId++
    const worker = (this.worker ??= this.startWorker())
    return new Promise((resolve, reject) => {
      this.waiting.set(id, { resolve, reject })
      worker.postMessage({ id, plan, around } satisfies ToSizingWorker)
    })
  }

  private startWorker(): Worker {
    const worker = new Worker(this.program)
    worker.unref()
    worker.on('message', ({ id, sizing }: FromSizingWorker) => {
      this.waiting.get(id)?.resolve(sizing)
      this.waiting.delete(id)
    })
    // A fault of its own ends the worker; the next question starts another.
    worker.on('error', (error) => {
      this.worker = undefined
      for (const { reject } of this.waiting.values()) reject(error)
      this.waiting.clear()
    })
    return worker
  }
}

function keyOf(plan: Plan, around: SizingAround): string {
  const { groups, locations, placement, networks, sizing, assumedUsersPerVcpu, keepMachinesMin } = plan
  return JSON.stringify([
    groups,
    locations,
    placement,
    networks,
    sizing,
    assumedUsersPerVcpu,
    keepMachinesMin,
    around.billedS,
    around.offers,
    around.stale,
    around.capacities.map(c => c.id),
    around.journeys,
  ])
}
