/** What a target says of its own time in the header Server-Timing (W3C Server Timing, §2 and §3). */

/** What a metric may be called: a token (RFC 9110 §5.6.2). Empty: none. */
export const TIMING_NAME = '^[!#$%&\'*+.^_`|~A-Za-z0-9-]{0,80}$'

/** A token (RFC 9110 §5.6.2), or one between quotes in which anything may stand. */
const PARAMETER = /;\s*([!#$%&'*+\-.^_`|~\w]+)\s*(?:=\s*(?:"((?:[^"\\]|\\.)*)"|([^\s;,"]*)))?/y
const NAME = /\s*([!#$%&'*+\-.^_`|~\w]+)\s*/y

/**
 * @param header as received; several lines of it joined by commas
 * @param name of the metric; capitals count
 * @returns its duration, ms, the first that is given; undefined when there is none
 */
export function serverTimingMs(header: string, name: string): number | undefined {
  let at = 0
  while (at < header.length) {
    NAME.lastIndex = at
    const metric = NAME.exec(header)
    if (metric) {
      at = NAME.lastIndex
      const duration = durationAt(header, at)
      at = duration.end
      if (metric[1] === name && duration.ms !== undefined) return duration.ms
    }
    // Whatever is no metric is passed over, to the next comma.
    const comma = header.indexOf(',', at)
    if (comma < 0) return undefined
    at = comma + 1
  }
  return undefined
}

/** The parameters from here on: only the first of a name counts. */
function durationAt(header: string, from: number): { ms: number | undefined, end: number } {
  let ms: number | undefined
  let seen = false
  let end = from
  for (;;) {
    PARAMETER.lastIndex = end
    const found = PARAMETER.exec(header)
    if (!found) return { ms, end }
    end = PARAMETER.lastIndex
    if (found[1]!.toLowerCase() !== 'dur' || seen) continue
    seen = true
    const value = Number.parseFloat(found[2] ?? found[3] ?? '')
    if (value >= 0 && Number.isFinite(value)) ms = value
  }
}
