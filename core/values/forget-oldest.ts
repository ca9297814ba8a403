/** Takes out what was put in first, until no more than `most` are left. */
export function forgetOldest<K>(kept: Map<K, unknown> | Set<K>, most: number): void {
  for (const key of kept.keys()) {
    if (kept.size <= most) return
    kept.delete(key)
  }
}
