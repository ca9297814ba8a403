/**
 * Seconds as they were told, each at its place: one that stands for a stretch stands at every second of it, and so does
 * what was told of generators for a whole minute.
 */
import type { SecondFigures } from '~~/api/views'

const MINUTE_S = 60

export function filledSeconds(told: readonly SecondFigures[]): SecondFigures[] {
  let ofMinute: { minute: number, generators: SecondFigures['generators'] } | undefined
  return told.flatMap(({ stretchS = 1, generatorsOfMinute, ...figures }) => {
    const from = Math.floor(figures.second / stretchS) * stretchS
    const minute = Math.floor(from / MINUTE_S)
    if (generatorsOfMinute) ofMinute = { minute, generators: generatorsOfMinute }
    const generators = ofMinute?.minute === minute ? ofMinute.generators : figures.generators
    return Array.from({ length: stretchS }, (_, i) => ({ ...figures, second: from + i, generators, stretchS }))
  })
}
