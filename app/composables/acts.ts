/**
 * What the present screen offers to do: one list that keys, the list of keys and the command palette are fed by. Single
 * letters never fire while one types, and can be switched off.
 */
import type { Role } from '~~/api/roles'
import { writtenKey, type Key } from '~/format/key-meanings'

export interface Act {
  key?: Key
  says: string
  /** Whose it is: it is not offered to others. Left out: everybody's. */
  needs?: Role
  /** What it spends, as it is said beside it: “€0.02 forecast”. */
  price?: () => string | undefined
  act: () => unknown
}

/** What each part of the screen offers; the last to come is over the others. */
const offers = shallowReactive(new Set<readonly Act[]>())
const acts = () => [...offers].reverse().flat().filter(a => a.needs === undefined || useMe().may(a.needs))
const off = ref(false)
/** In fields these belong to what is typed there. */
const OF_TYPING = ['Ctrl+Z', 'Ctrl+Shift+Z']

/** Acts while the calling component is there. */
export function useActs(list: readonly Act[]): void {
  onMounted(() => offers.add(list))
  onUnmounted(() => offers.delete(list))
}

/** All acts there are now, the screen's own first; and whether single keys are switched off. */
export function useActList() {
  return { acts: computed(acts), off }
}

/** Listens; called once, by the frame. */
export function listenForKeys(): void {
  const listen = (event: KeyboardEvent) => {
    if (event.altKey || event.defaultPrevented) return
    const key = writtenKey(event)
    const single = !key.startsWith('Ctrl+')
    if (single && (off.value || typing(event.target))) return
    if (OF_TYPING.includes(key) && writing(event.target)) return
    const act = acts().find(a => a.key === key)
    if (!act) return
    event.preventDefault()
    act.act()
  }
  onMounted(() => {
    off.value = localStorage.getItem('vornak.keys') === 'off'
    window.addEventListener('keydown', listen)
  })
  onUnmounted(() => window.removeEventListener('keydown', listen))
  watch(off, value => localStorage.setItem('vornak.keys', value ? 'off' : 'on'))
}

function writing(target: EventTarget | null): boolean {
  // Keys are pressed in elements.
  return !!(target as HTMLElement | null)?.closest('input, textarea, [contenteditable]')
}

function typing(target: EventTarget | null): boolean {
  // As above.
  const element = target as HTMLElement | null
  return writing(target) || !!element?.closest(
    '[role="grid"], [role="dialog"], '
    // Nuxt UI's own, which take letters to search by; lists of ours do not.
    + ['combobox', 'listbox', 'menu', 'spinbutton', 'slider', 'radio'].map(r => `[role="${r}"][data-slot]`).join(),
  )
}
