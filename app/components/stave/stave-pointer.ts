/** The pointer over the stave: it reads the second it is at; dragging chooses a window, or zooms. */
import { present } from '~~/core/values/present'
import { NO_READING, type CursorReading } from './stave-cursor'
import { LEFT, RIGHT } from './stave-geometry'
import { DRAWN_PX, marksNear, type StaveMark } from './stave-marks'

interface Span { fromS: number, toS: number }

interface PointedAt {
  frame: Readonly<Ref<HTMLElement | null>>
  /** Of the frame, px. */
  width: Readonly<Ref<number>>
  /** What is shown. */
  span: () => Span
  /** The window that is chosen. */
  chosen: () => Span | undefined
  marks: () => readonly StaveMark[]
  /** The second that is read: written here. */
  reading: Ref<CursorReading>
  /** A window was dragged. @param zooms with Shift: it is to be zoomed to, whatever dragging is for */
  drag: (window: Span, zooms: boolean) => void
}

export function useStavePointer({ frame, width, span, chosen, marks, reading, drag }: PointedAt) {
  const dragging = ref<{ from: number, to: number }>()
  const innerWidth = computed(() => Math.max(1, width.value - LEFT - RIGHT))
  const lengthS = computed(() => span().toS - span().fromS)

  /** How far right of the charts' left edge, px. */
  const rightOf = (event: MouseEvent) =>
    event.clientX - present(frame.value, 'the frame one points at').getBoundingClientRect().left - LEFT
  const secondAt = (event: MouseEvent) =>
    span().fromS + Math.min(1, Math.max(0, rightOf(event) / innerWidth.value)) * lengthS.value
  const pxAt = (second: number) => LEFT + ((second - span().fromS) / lengthS.value) * innerWidth.value

  /** The moment one points at, whole seconds, drawn to a mark that is near; undefined: beside the charts. */
  function pointedAt(event: MouseEvent): number | undefined {
    if (rightOf(event) < 0) return undefined
    const { fromS, toS } = span()
    const at = Math.min(Math.floor(toS), Math.max(fromS + 1, Math.round(secondAt(event))))
    return marksNear(marks(), at, (DRAWN_PX * lengthS.value) / innerWidth.value)[0]?.at ?? at
  }

  function down(event: MouseEvent): void {
    if (pointedAt(event) !== undefined) dragging.value = { from: secondAt(event), to: secondAt(event) }
  }
  function move(event: MouseEvent): void {
    if (dragging.value) dragging.value.to = secondAt(event)
    if (!reading.value.pinned) reading.value = { at: pointedAt(event), pinned: false }
  }
  /** A window of a second or more was dragged; a click holds the cursor where one points, and lets it go there. */
  function up(event: MouseEvent): void {
    const window = dragged()
    dragging.value = undefined
    if (window && window.toS - window.fromS >= 1)
      return drag({ fromS: Math.floor(window.fromS), toS: Math.ceil(window.toS) }, event.shiftKey)
    const at = pointedAt(event)
    if (at !== undefined) reading.value = { at, pinned: !(reading.value.pinned && reading.value.at === at) }
  }
  function leave(): void {
    dragging.value = undefined
    if (!reading.value.pinned) reading.value = NO_READING
  }

  function dragged(): Span | undefined {
    if (!dragging.value) return undefined
    const { from, to } = dragging.value
    return { fromS: Math.min(from, to), toS: Math.max(from, to) }
  }
  /** The window that is dragged, or else chosen, as far as it is in sight. */
  const shown = computed((): Span | undefined => {
    const window = dragged() ?? chosen()
    const { fromS, toS } = span()
    if (!window || window.toS <= fromS || window.fromS >= toS) return undefined
    return { fromS: Math.max(window.fromS, fromS), toS: Math.min(window.toS, toS) }
  })

  return { dragging, shown, innerWidth, pxAt, down, move, up, leave }
}
