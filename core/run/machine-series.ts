/**
 * The series of a run told apart by the machine they came from: what the pyramid sums over, and only frames still know.
 */
import type { RunDocument } from './document'
import { seriesOf, type Series } from './series'

/** A generator of a run; its number is its place in the list. */
export interface RunMachine {
  name: string
  /** Index of the location in the plan. */
  location: number
}

/** A series of one machine alone. */
export interface MachineSeries extends Series {
  /** Name of the machine. */
  machine: string
}

/** @returns by {@link machineSeriesNumber}; holes where a machine stands at another location */
export function seriesByMachine(document: RunDocument, machines: readonly RunMachine[]): (MachineSeries | undefined)[] {
  const series = seriesOf(document)
  return machines.flatMap(({ name, location }) =>
    series.map(of => (of.location === location ? { ...of, machine: name } : undefined)),
  )
}

/** @param seriesCount of the run, all machines together */
export function machineSeriesNumber(generator: number, series: number, seriesCount: number): number {
  return generator * seriesCount + series
}
