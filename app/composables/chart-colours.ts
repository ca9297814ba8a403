/** Colours of the present theme for canvases, which cannot read CSS variables themselves. */

export interface Colours {
  ink: string
  quiet: string
  hair: string
  edge: string
  panel: string
  bg: string
  shade: string
  plan: string
  plantx: string
  brick: string
  moss: string
  act: string
  groups: string[]
  tint: number
}

export function useColours() {
  const mode = useColorMode()
  const colours = ref<Colours>()
  const read = () => {
    const style = getComputedStyle(document.documentElement)
    const v = (name: string) => style.getPropertyValue(name).trim()
    colours.value = {
      ink: v('--ink'),
      quiet: v('--quiet'),
      hair: v('--hair'),
      edge: v('--edge'),
      panel: v('--panel'),
      bg: v('--bg'),
      shade: v('--shade'),
      plan: v('--plan'),
      plantx: v('--plantx'),
      brick: v('--brick'),
      moss: v('--moss'),
      act: v('--act'),
      groups: Array.from({ length: 8 }, (_, i) => v(`--g${i + 1}`)),
      tint: Number.parseFloat(v('--tint')) / 100,
    }
  }
  onMounted(read)
  watch(
    () => mode.value,
    () => void nextTick(read),
  )
  return colours
}
