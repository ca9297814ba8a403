/**
 * Seconds of a run as screens and programs ask for them: all of a window, or at most a given number, each the slowest
 * of its stretch. How each generator was comes with them: of each second, or, where that is too much, of each minute.
 */
import { toldWorst } from '../../core/capacity/signals'
import type { SecondFigures, WorstSignal } from '../../core/merge/second-figures'
import type { OpenRun } from './run-reader'

export interface SecondsWish {
  fromS: number
  toS: number
  /** Left out: every second. */
  most?: number | undefined
}

/** Generators are told of second by second up to this many signals in all. */
const MOST_SIGNALS = 200_000
const MINUTE_S = 60

/** @param machines how many generators the run has; 0: none whose signals are known */
export function toldSeconds(
  run: Pick<OpenRun, 'seconds' | 'slowest' | 'endS' | 'workerSeconds' | 'worstOfMinutes'>,
  { fromS, toS, most = Number.POSITIVE_INFINITY }: SecondsWish,
  machines: number,
): SecondFigures[] {
  const end = Math.min(toS, run.endS)
  const stretchS = Math.max(1, Math.ceil((end - fromS) / most))
  const seconds = stretchS === 1
    ? run.seconds(fromS, end)
    : run.slowest(fromS, end, stretchS).map(s => ({ ...s, stretchS }))
  // Earlier releases kept them with each second; what still comes in has them too.
  if (machines === 0 || seconds.length === 0 || seconds[0]!.generators.length > 0) return seconds
  return stretchS === 1 && machines * seconds.length <= MOST_SIGNALS
    ? withEach(seconds, run, machines)
    : withMinutes(seconds, run, stretchS)
}

function withEach(
  seconds: SecondFigures[],
  run: Pick<OpenRun, 'workerSeconds'>,
  machines: number,
): SecondFigures[] {
  const told = new Map<number, WorstSignal[]>(
    seconds.filter(s => s.generators.length === 0).map(s => [s.second, s.generators]))
  const [first, last] = [seconds[0]!.second, seconds[seconds.length - 1]!.second]
  for (let g = 0; g < machines; g++)
    for (const { second, health } of run.workerSeconds(g, first, last + 1))
      told.get(second)?.push([g, ...toldWorst(health)])
  return seconds
}

function withMinutes(
  seconds: SecondFigures[],
  run: Pick<OpenRun, 'worstOfMinutes'>,
  stretchS: number,
): SecondFigures[] {
  const minuteOf = ({ second }: SecondFigures) => Math.floor((Math.floor(second / stretchS) * stretchS) / MINUTE_S)
  const [first, last] = [minuteOf(seconds[0]!), minuteOf(seconds[seconds.length - 1]!)]
  const worst = run.worstOfMinutes(first, last + 1)
  let before = -1
  return seconds.map((s) => {
    const minute = minuteOf(s)
    if (minute === before) return s
    before = minute
    return { ...s, generatorsOfMinute: worst.get(minute) ?? [] }
  })
}
