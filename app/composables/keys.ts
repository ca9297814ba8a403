/** Single-key commands. They never fire while one types, and can be switched off. */

export interface KeyCommand {
  key: string
  says: string
  act: () => void
}

const commands = shallowReactive(new Set<KeyCommand>())
const off = ref(false)

/** Commands while the calling component is there. `Shift+S` is written `S`. */
export function useKeys(list: KeyCommand[]): void {
  onMounted(() => {
    for (const c of list) commands.add(c)
  })
  onUnmounted(() => {
    for (const c of list) commands.delete(c)
  })
}

/** All commands there are now, and whether they are switched off. */
export function useKeyList() {
  return { commands, off }
}

/** Listens; called once, by the frame. */
export function listenForKeys(): void {
  const listen = (event: KeyboardEvent) => {
    if (off.value || event.ctrlKey || event.metaKey || event.altKey || event.defaultPrevented || typing(event.target))
      return
    // The last added wins: a screen over the frame.
    const command = [...commands].reverse().find(c => c.key === event.key)
    if (!command) return
    event.preventDefault()
    command.act()
  }
  onMounted(() => {
    off.value = localStorage.getItem('vornak.keys') === 'off'
    window.addEventListener('keydown', listen)
  })
  onUnmounted(() => window.removeEventListener('keydown', listen))
  watch(off, value => localStorage.setItem('vornak.keys', value ? 'off' : 'on'))
}

function typing(target: EventTarget | null): boolean {
  const element = target as HTMLElement | null
  return !!element?.closest('input, textarea, select, [contenteditable], [role="grid"], [role="dialog"]')
}
