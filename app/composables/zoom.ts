/** The seconds a run's charts are zoomed to: in the address; undefined: all there are. */
export function useZoom() {
  const text = useInAddress('zoom')
  return computed({
    get: () => {
      const [fromS, toS] = /^(\d{1,6})-(\d{1,6})$/.exec(text.value ?? '')?.slice(1).map(Number) ?? []
      return fromS !== undefined && toS !== undefined && fromS < toS ? { fromS, toS } : undefined
    },
    set: (to: { fromS: number, toS: number } | undefined) => {
      text.value = to && `${to.fromS}-${to.toS}`
    },
  })
}
