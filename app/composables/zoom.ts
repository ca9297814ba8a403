/**
 * The seconds a run's charts are zoomed to: in the address; undefined: all there are, or none of the run are named.
 *
 * @param endS where the run's charts end, run second
 */
export function useZoom(endS: () => number) {
  const text = useInAddress('zoom')
  return computed({
    get: () => {
      const [fromS, toS] = /^(\d{1,6})-(\d{1,6})$/.exec(text.value ?? '')?.slice(1).map(Number) ?? []
      if (fromS === undefined || toS === undefined || fromS >= toS || fromS >= endS()) return undefined
      return { fromS, toS: Math.min(toS, endS()) }
    },
    set: (to: { fromS: number, toS: number } | undefined) => {
      text.value = to && `${to.fromS}-${to.toS}`
    },
  })
}
