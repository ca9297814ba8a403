/**
 * The strips of the machine map: per machine a bar each second, as high as its worst signal is of its limit. What has
 * changed alone is drawn: fifty machines for an hour are 180,000 bars.
 */
import type { SecondFigures } from '~~/api/views'
import type { Colours } from '~/composables/chart-colours'

type Seconds = readonly (SecondFigures | undefined)[]

/** Height of a row, px. */
export const ROW = 14
/** Of a limit: above it a bar is dark. */
const NEAR_SHARE = 0.85
const DARK_OPACITY = 0.85
const LIGHT_OPACITY = 0.38
/** Of seconds that may still change. */
const PROVISIONAL_OPACITY = 0.45
/** Bars stand apart where there is room, px. */
const ROOM_PX = 3
const APART_PX = 0.5
/** Hatching, px. */
const HATCH_PX = 5

export interface StripFrame {
  colours: Colours
  /** Width, px. */
  width: number
  /** Run seconds that are shown. */
  span: { fromS: number, toS: number }
  machines: readonly {
    /** When it has users; left out: always. ms since the start. */
    shift?: { fromMs: number, toMs: number } | undefined
    /** Run second since which nothing is heard of it. */
    silentFromS?: number | undefined
  }[]
}

export class MachineStrips {
  private before: Seconds = []

  /** @param context of a canvas of that width, and a row for each machine */
  constructor(
    private readonly context: CanvasRenderingContext2D,
    private readonly frame: StripFrame,
  ) {
    this.ground(0, frame.width)
  }

  /** Draws the seconds that are others than before; all of them where something is hatched over them. */
  take(now: Seconds): void {
    const { frame: { span, machines } } = this
    const before = machines.some(m => m.silentFromS !== undefined) ? [] : this.before
    this.before = now
    for (let s = Math.max(0, span.fromS); s < Math.min(now.length, span.toS); s++)
      if (now[s] && now[s] !== before[s]) this.second(now[s]!)
    const newest = now.findLast(s => s !== undefined)?.second ?? 0
    machines.forEach(({ silentFromS }, row) => {
      if (silentFromS !== undefined) this.hatch(row, silentFromS, newest + 1)
    })
  }

  private get pxEach(): number {
    const { width, span } = this.frame
    return width / (span.toS - span.fromS)
  }

  /** What bars stand on: before and after its shift a machine has nobody. */
  private ground(x: number, width: number): void {
    const { context, pxEach, frame: { colours, machines, span } } = this
    context.fillStyle = colours.panel
    context.fillRect(x, 0, width, machines.length * ROW)
    const fill = (from: number, to: number, row: number) => {
      const left = Math.max(x, from)
      const right = Math.min(x + width, to)
      if (right > left) context.fillRect(left, row * ROW, right - left, ROW)
    }
    context.fillStyle = colours.shade
    machines.forEach(({ shift }, row) => {
      if (!shift) return
      fill(0, (shift.fromMs / 1000 - span.fromS) * pxEach, row)
      fill((shift.toMs / 1000 - span.fromS) * pxEach, this.frame.width, row)
    })
    context.fillStyle = colours.hair
    machines.forEach((_, row) => context.fillRect(x, (row + 1) * ROW - 1, width, 1))
  }

  private second({ second, final, generators }: SecondFigures): void {
    const { context, pxEach, frame: { colours, span } } = this
    const x = (second - span.fromS) * pxEach
    const width = Math.max(1, Math.ceil(pxEach - (pxEach > ROOM_PX ? APART_PX : 0)))
    this.ground(x, width)
    for (const [number, ratio] of generators) {
      const isOver = ratio > 1
      const height = isOver ? ROW - 2 : Math.max(1, Math.round((ROW - 3) * ratio))
      const opacity = isOver ? 1 : ratio > NEAR_SHARE ? DARK_OPACITY : LIGHT_OPACITY
      context.fillStyle = isOver ? colours.brick : colours.ink
      context.globalAlpha = opacity * (final ? 1 : PROVISIONAL_OPACITY)
      context.fillRect(x, (number + 1) * ROW - 1 - height, width, height)
    }
    context.globalAlpha = 1
  }

  /** Of whom nothing is heard nobody knows anything: hatched until now. */
  private hatch(row: number, fromS: number, toS: number): void {
    const { context, pxEach, frame: { colours, span } } = this
    const from = Math.max(0, (fromS - span.fromS) * pxEach)
    const to = Math.max(from + ROOM_PX, (toS - span.fromS) * pxEach)
    context.save()
    context.beginPath()
    context.rect(from, row * ROW, to - from, ROW - 1)
    context.clip()
    context.strokeStyle = colours.brick
    context.beginPath()
    for (let x = from - ROW; x < to; x += HATCH_PX) {
      context.moveTo(x, (row + 1) * ROW - 1)
      context.lineTo(x + ROW, row * ROW)
    }
    context.stroke()
    context.restore()
  }
}
