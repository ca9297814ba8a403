/** The stave one has chosen: in the address, so that it can be sent; as the plan asks while nobody has. */
import { useLocalStorage } from '@vueuse/core'
import type { NamedValues, Staff } from '~~/core/result/staff'
import type { RunDocument } from '~~/core/run/document'
import {
  MOST_STAFFS,
  ownEntry,
  printStave,
  READY_SETS,
  readEntry,
  readStave,
  usualStave,
  targetEntry,
  targetSeries,
  type StaffEntry,
  type StaffHeight,
} from './stave-staffs'

/** What a new staff shows first. */
const FIRST: Staff = { statistics: ['p95'], measure: 'answered', split: 'step' }
/** How long what was taken away is offered back, ms. */
const OFFERED_MS = 8000

export function useChosenStave(document: () => RunDocument, named: () => NamedValues) {
  const text = useInAddress('staffs')
  const toast = useToast()
  const usual = computed(() => usualStave(document(), named()))
  const entries = computed(() => {
    const read = text.value ? readStave(text.value, named()) : []
    return read.length > 0 ? read : usual.value
  })
  /** Sets somebody has kept, by their names. */
  const kept = useLocalStorage<Record<string, string>>('vornak.staves', {})

  function set(next: readonly StaffEntry[]): void {
    const said = printStave(next)
    text.value = said === printStave(usual.value) || next.length === 0 ? undefined : said
  }
  const change = (key: string, to: (entry: StaffEntry) => StaffEntry) =>
    set(entries.value.map(e => (e.key === key ? to(e) : e)))

  return {
    entries,
    kept,
    usual,
    set,
    /** @returns its key; the one there was, where there is one of that text */
    add(): string {
      const fresh = ownEntry(FIRST, named())
      const isThere = entries.value.some(e => e.key === fresh.key)
      if (!isThere && entries.value.length < MOST_STAFFS) set([...entries.value, fresh])
      return fresh.key
    },
    /** @returns what it is called now, or what is wrong */
    write(key: string, words: string): { key: string } | { problem: string } {
      const entry = entries.value.find(e => e.key === key)
      const read = readEntry(words, named())
      if (read.problem) return { problem: read.problem }
      if (read.key !== key && entries.value.some(e => e.key === read.key)) return { problem: `“${read.key}” is there already.` }
      change(key, () => ({ ...read, height: entry?.height ?? read.height }))
      return { key: read.key }
    },
    /** Staffs of the target's own figures that are not there yet. */
    targets: computed(() =>
      targetSeries(document()).filter(name => !entries.value.some(e => e.target?.join() === name))),
    addTarget(name: string): void {
      if (entries.value.length < MOST_STAFFS) set([...entries.value, targetEntry([name])])
    },
    resize: (key: string, height: StaffHeight) => change(key, e => ({ ...e, height })),
    move(key: string, by: 1 | -1): void {
      const list = [...entries.value]
      const from = list.findIndex(e => e.key === key)
      const to = from + by
      if (from < 0 || to < 0 || to >= list.length) return
      ;[list[from], list[to]] = [list[to]!, list[from]!]
      set(list)
    },
    remove(key: string): void {
      const before = entries.value
      if (before.length < 2) return
      set(before.filter(e => e.key !== key))
      toast.add({
        title: `“${key}” was taken away.`,
        duration: OFFERED_MS,
        actions: [{ label: 'Bring it back', onClick: () => set(before) }],
      })
    },
    keep(name: string): void {
      kept.value = { ...kept.value, [name]: printStave(entries.value) }
    },
    forget(name: string): void {
      kept.value = Object.fromEntries(Object.entries(kept.value).filter(([n]) => n !== name))
    },
    show(staffs: string): void {
      set(readStave(staffs, named()))
    },
    ready: READY_SETS,
  }
}
export type ChosenStave = ReturnType<typeof useChosenStave>
