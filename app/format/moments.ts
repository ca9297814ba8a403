/** Moments as people read them, in the operator's zone; durations, and seconds of a run, are the same in any. */
export { duration, runTime } from '~~/core/values/said-times'

const clock = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit', second: '2-digit' })
const day = new Intl.DateTimeFormat('en-GB', { weekday: 'short', day: 'numeric', month: 'short' })

/** 07:59:12 */
export function clockTime(ms: number): string {
  return clock.format(ms)
}

/** `Tue 24 Nov 15:03`, or the time alone for today. */
export function dayTime(ms: number, now: number): string {
  const short = clock.format(ms).slice(0, 5)
  return new Date(ms).toDateString() === new Date(now).toDateString()
    ? short
    : `${day.format(ms).replace(',', '')} ${short}`
}

/** `just now`, `12 min ago`, and from a day on the moment itself. */
export function ago(ms: number, now: number): string {
  const passed = now - ms
  if (passed < 60_000) return 'just now'
  if (passed >= 86_400_000) return dayTime(ms, now)
  const minutes = Math.floor(passed / 60_000)
  return minutes < 60 ? `${minutes} min ago` : `${Math.floor(minutes / 60)} h ago`
}
