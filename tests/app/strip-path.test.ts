/** The line of a small drawing. */
import { stripPath } from '../../app/format/strip-path'

it('goes from value to value, and is interrupted where there is none', () => {
  const path = (values: (number | null)[]) => stripPath(values, at => at * 10, value => 100 - value)
  expect(path([0, 5, null, 10.25, null])).toBe('M0.0 100.0L10.0 95.0M30.0 89.8')
  expect(path([null, null])).toBe('')
  expect(path([])).toBe('')
})
