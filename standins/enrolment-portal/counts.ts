/**
 * The portal's own count of what it received, by run, step and second: the independent side of every end-to-end check.
 */

export interface StepCount {
  received: number
  answered: Record<string, number>
  bySecond: Record<string, number>
}

export class Counts {
  private readonly runs = new Map<string, Map<string, StepCount>>()

  /** @returns where to note the answer's status */
  received(run: string, step: string, nowMs: number): StepCount {
    let steps = this.runs.get(run)
    if (!steps) this.runs.set(run, (steps = new Map()))
    let count = steps.get(step)
    if (!count) steps.set(step, (count = { received: 0, answered: {}, bySecond: {} }))
    count.received++
    const second = String(Math.floor(nowMs / 1000))
    count.bySecond[second] = (count.bySecond[second] ?? 0) + 1
    return count
  }

  of(run: string): Record<string, StepCount> {
    return Object.fromEntries(this.runs.get(run) ?? [])
  }

  all(): Record<string, Record<string, StepCount>> {
    return Object.fromEntries([...this.runs.keys()].map(run => [run, this.of(run)]))
  }
}
