/**
 * What is asked of a result, kept in its address: which steps, groups, journeys, locations and networks count, and how
 * they are told apart.
 */
import { DIMENSIONS, type Dimension, type SliceWish } from '~~/core/result/slices'

/** Values of one dimension as the address has them; a comma parts them, and is written as an escape within one. */
const SOME = {
  read: (text: string | undefined) => (text ? text.split(',').map(v => v.replace(/%25|%2C/g, decodeURIComponent)) : []),
  write: (values: readonly string[]) => values.map(v => v.replace(/[%,]/g, encodeURIComponent)).join(',') || undefined,
}

/** @returns per dimension the values that count, each to be bound to a control (none: all); and those chosen alone */
export function useSliceOnly() {
  const only = Object.fromEntries(
    DIMENSIONS.map((d) => {
      const text = useInAddress(d)
      return [
        d,
        computed({
          get: () => SOME.read(text.value),
          set: (values: string[]) => {
            text.value = SOME.write(values)
          },
        }),
      ]
    }),
  // Each dimension was gone through.
  ) as Record<Dimension, WritableComputedRef<string[]>>
  const chosen = computed((): NonNullable<SliceWish['only']> =>
    Object.fromEntries(DIMENSIONS.flatMap(d => (only[d].value.length > 0 ? [[d, only[d].value]] : []))))
  return { only, chosen }
}

/** @returns what rows are and what they unfold into; empty: nothing */
export function useSliceRows(): { by: WritableComputedRef<Dimension>, then: WritableComputedRef<Dimension | ''> } {
  const by = useInAddress('rows')
  const then = useInAddress('by')
  const known = (text: string | undefined) => DIMENSIONS.find(d => d === text)
  const chosen = computed(() => known(by.value) ?? 'step')
  const unfolding = computed((): Dimension | '' => {
    if (then.value === 'nothing') return ''
    const usual = chosen.value === 'step' ? 'location' : 'step'
    const asked = known(then.value) ?? usual
    return asked === chosen.value ? usual : asked
  })
  return {
    by: computed({
      get: () => chosen.value,
      set: (d) => {
        // What rows are they do not unfold into too: the two change places.
        if (d === unfolding.value) then.value = chosen.value
        by.value = d === 'step' ? undefined : d
      },
    }),
    then: computed({
      get: () => unfolding.value,
      set: (d) => {
        then.value = d === '' ? 'nothing' : d
      },
    }),
  }
}
