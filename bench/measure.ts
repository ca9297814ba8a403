/** What benches share: one JSON line per measurement, and CPU time of a piece of work. */

export interface Measurement {
  bench: string
  case: string
  value: number
  unit: string
  /** The same measured for the reference, in the same run. */
  reference: number
  ratio: number
  /** What `ratio` should reach, or stay below. */
  goal: string
}

export function tell(m: Measurement): void {
  const round = (n: number) => Number(n.toPrecision(4))
  console.log(JSON.stringify({ ...m, value: round(m.value), reference: round(m.reference), ratio: round(m.ratio) }))
}

/** CPU of this process while `work` runs, ms. */
export async function cpuMsOf(work: () => void | Promise<void>): Promise<number> {
  const before = process.cpuUsage()
  await work()
  const used = process.cpuUsage(before)
  return (used.user + used.system) / 1000
}

/** Middle value. */
export function median(values: number[]): number {
  return [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)]!
}
