/** A target's clock, as people read it. */

/** How a clock is off ours: “12 ms ahead ± 1 ms”. @param offsetMs ahead of ours */
export function clockText(offsetMs: number, uncertaintyMs: number): string {
  const off = Math.round(Math.abs(offsetMs))
  return `${off} ms ${offsetMs < 0 ? 'behind' : 'ahead'} ± ${Math.ceil(uncertaintyMs)} ms`
}
