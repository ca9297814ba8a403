/** How runs of a list stand to the baselines of their plans: added up one after the other, the newest first. */
import type { RunLine } from '~~/api/views'
import { comparedSentence, standingInShort } from '~~/core/compare/words'

/** Older ones are told where one looks at them. */
const MOST = 24

export interface StandingTold {
  short: string
  sentence: string
}

/** @returns by the numbers of runs; undefined: it is still added up, or there is nothing to hold it against */
export function useStandings(runs: () => readonly RunLine[]) {
  const told = ref<Record<number, StandingTold>>({})
  const asked = computed(() =>
    runs()
      .filter(r => r.baseline !== undefined && r.verdict !== undefined)
      .slice(0, MOST)
      // Those without one were left out above.
      .map(r => ({ id: r.id, baseline: r.baseline!, build: r.build, soundness: r.soundness })))
  const newest = newestOnly()
  watch(() => JSON.stringify(asked.value), () => newest(async (isNewest) => {
    for (const { id, baseline } of asked.value) {
      const standing = await standingOf(baseline, id)
      if (!isNewest()) return
      told.value = { ...told.value, [id]: standing }
    }
  }), { immediate: true })
  onScopeDispose(() => void newest(() => Promise.resolve()))
  return told
}

/** What cannot be compared says why: its figures were given back, say. */
async function standingOf(baseline: number, id: number): Promise<StandingTold> {
  try {
    const view = await api('compare', { runs: `${baseline},${id}` })
    return { short: standingInShort(view, 0), sentence: comparedSentence(view, 0) }
  }
  catch (error) {
    return { short: 'cannot be held against it', sentence: problemOf(error).sentence }
  }
}
