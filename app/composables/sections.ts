/**
 * Named sections of a long page, each with an address of its own: `#figures`. Anyone who comes by such an address is
 * taken there as soon as the section is there.
 */
export interface Section {
  id: string
  name: string
}

/** A section counts as the present one once its head is so near to the top of what scrolls, px. */
const NEAR_PX = 60
/** What is loaded late pushes sections down: so long after it came one is kept in sight, ms. */
const SETTLES_MS = 1500

/** @param sections in their order; those that are not on the page are passed over */
export function useSections(sections: () => readonly Section[]) {
  const route = useRoute()
  const router = useRouter()
  const element = (id: string) => document.getElementById(id)
  const now = computed(() => route.hash.slice(1))
  let stop: (() => void) | undefined

  function show(id: string): void {
    stop?.()
    const section = element(id)
    if (!section) return
    const look = () => section.scrollIntoView({ block: 'start' })
    look()
    // Above it something may still grow, until somebody scrolls.
    const observer = new ResizeObserver(look)
    for (const child of section.parentElement?.children ?? []) observer.observe(child)
    const end = () => {
      observer.disconnect()
      clearTimeout(timer)
      removeEventListener('wheel', end)
      removeEventListener('keydown', end)
    }
    const timer = setTimeout(end, SETTLES_MS)
    addEventListener('wheel', end, { passive: true })
    addEventListener('keydown', end)
    stop = end
  }

  function go(id: string): void {
    // At once, so that the next key is judged from there, however long the address takes.
    show(id)
    if (now.value !== id) void router.push({ query: route.query, hash: `#${id}` })
  }

  /** @param by 1: the next one, −1: the one before; from where one has scrolled to */
  function step(by: 1 | -1): void {
    const there = sections().flatMap(({ id }) => {
      const section = element(id)
      if (!section) return []
      const within = section.parentElement?.getBoundingClientRect().top ?? 0
      return [{ id, top: section.getBoundingClientRect().top - within }]
    })
    const next = by > 0 ? there.find(s => s.top > NEAR_PX) : there.findLast(s => s.top < -NEAR_PX)
    if (next) go(next.id)
  }

  watch(
    () => [now.value, sections().map(s => s.id).join()] as const,
    ([id]) => id && void nextTick(() => show(id)),
    { immediate: true },
  )
  onUnmounted(() => stop?.())
  return { now, go, step }
}
