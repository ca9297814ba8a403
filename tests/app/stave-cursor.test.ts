/** The cursor of the stave: keys move it, and a moment that was typed is read as people write it. */
import { moved, NO_READING, readRunTime } from '../../app/components/stave/stave-cursor'

const span = { fromS: 0, toS: 100 }
const key = (key: string, shiftKey = false) => ({ key, shiftKey })

it('goes a second, or ten, and stays within the run', () => {
  const at = (from: number, k: ReturnType<typeof key>) => moved({ at: from, pinned: true }, k, span)?.at
  expect([at(50, key('ArrowLeft')), at(50, key('ArrowRight', true)), at(95, key('ArrowRight', true))]).toEqual([49, 60, 100])
  expect([at(1, key('ArrowLeft')), at(50, key('Home')), at(50, key('End'))]).toEqual([1, 1, 100])
  expect(at(50, key('a'))).toBeUndefined()
})

it('begins at the edge one comes from, and Esc lets it go once', () => {
  expect(moved(NO_READING, key('ArrowRight'), span)).toEqual({ at: 1, pinned: true })
  expect(moved(NO_READING, key('ArrowLeft'), span)).toEqual({ at: 100, pinned: true })
  expect(moved({ at: 3, pinned: true }, key('Escape'), span)).toEqual(NO_READING)
  expect(moved(NO_READING, key('Escape'), span)).toBeUndefined()
})

it.each([
  ['+12:52', 772],
  ['12:52', 772],
  ['1:02:03', 3723],
  [' 772 s', 772],
  ['0', 0],
  ['12:72', undefined],
  ['noon', undefined],
  ['-5', undefined],
])('reads %s', (text, seconds) => expect(readRunTime(text)).toBe(seconds))
