/** Durations and seconds of a run as people read them. */

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

const utc = new Intl.DateTimeFormat('en-GB', {
  day: 'numeric',
  month: 'short',
  year: 'numeric',
  hour: '2-digit',
  minute: '2-digit',
  timeZone: 'UTC',
})

/** `26 Nov 2026 08:00 UTC`: the same wherever it is read. @param ms since 1970 */
export function utcMoment(ms: number): string {
  return `${utc.format(ms).replace(',', '')} UTC`
}
