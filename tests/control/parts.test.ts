/** What a generator's part in a run can be, and what becomes of it when its last word comes. */
import { Parts } from '../../control/run/parts'

it('is playing until something else is known; one that is silent is still there, with since when', () => {
  const parts = new Parts()
  expect([parts.of(3), parts.ofThere(3), parts.all('playing')]).toEqual([{ is: 'playing' }, { is: 'playing' }, []])
  parts.set(1, { is: 'playing', silentSince: 5000 })
  parts.set(2, { is: 'leaving', silentSince: 6000 })
  parts.set(4, { is: 'coming', toldLate: false })
  expect([...parts.silent()]).toEqual([
    [1, 5000],
    [2, 6000],
  ])
  expect([parts.ofThere(4), parts.all('coming')]).toEqual([undefined, [[4, { is: 'coming', toldLate: false }]]])
})

it('is finished by a last word, unless it was given up before: then that word makes its account complete, and no more', () => {
  const parts = new Parts()
  parts.set(0, { is: 'leaving', silentSince: 1 })
  parts.set(1, { is: 'gone', sinceSecond: 40, isComplete: false })
  parts.set(2, { is: 'absent', sinceSecond: 7 })
  parts.set(3, { is: 'finished', leftAt: 9000 })
  for (const number of [0, 1, 2, 3, 4]) parts.finish(number)
  expect([0, 1, 2, 3, 4].map(n => parts.of(n))).toEqual([
    { is: 'finished' },
    { is: 'gone', sinceSecond: 40, isComplete: true },
    { is: 'absent', sinceSecond: 7 },
    { is: 'finished', leftAt: 9000 },
    { is: 'finished' },
  ])
  expect(parts.silent().size).toBe(0)
})
