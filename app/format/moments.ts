/** Moments and durations as people read them, in the operator's zone. */

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

/** Run second as `+08:24`, or `−00:03` before the start. */
export function runTime(second: number): string {
  const s = Math.abs(Math.trunc(second))
  const minutes = Math.floor(s / 60)
  const text = `${String(minutes % 60).padStart(2, '0')}:${String(s % 60).padStart(2, '0')}`
  return `${second < 0 ? '−' : '+'}${minutes >= 60 ? `${Math.floor(minutes / 60)}:` : ''}${text}`
}

/** `41 min 20 s` */
export function duration(ms: number): string {
  const s = Math.max(0, Math.round(ms / 1000))
  if (s >= 3600) return `${Math.floor(s / 3600)} h ${Math.floor((s % 3600) / 60)} min`
  return s >= 60 ? `${Math.floor(s / 60)} min${s % 60 ? ` ${s % 60} s` : ''}` : `${s} s`
}

/** `just now`, `12 min ago`, and from a day on the moment itself. */
export function ago(ms: number, now: number): string {
  const passed = now - ms
  if (passed < 60_000) return 'just now'
  if (passed >= 86_400_000) return dayTime(ms, now)
  const minutes = Math.floor(passed / 60_000)
  return minutes < 60 ? `${minutes} min ago` : `${Math.floor(minutes / 60)} h ago`
}
