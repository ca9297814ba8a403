/** What is shared without names: wherever one stands by itself, and nowhere else. */
import { withoutNames } from '../../core/report/shared'

const aliases = new Map([
  ['rey', 'a host'],
  ['rey-1', 'machine 1'],
  ['rey-10', 'machine 10'],
  ['10.0.0.7', 'a host'],
  ['db.', 'a host'],
])

it('changes names wherever they stand by themselves, the longest first, in all that is told', () => {
  expect(
    withoutNames(
      { text: 'rey-10 was lost; rey-1, too.', rows: [['(rey)', 4, null, undefined, true], ['at 10.0.0.7:22']] },
      aliases,
    ),
  ).toEqual({
    text: 'machine 10 was lost; machine 1, too.',
    rows: [['(a host)', 4, null, undefined, true], ['at a host:22']],
  })
})

it('leaves other words that contain one, and takes signs in names for what they are', () => {
  const said = 'grey, reykjavik, rey-100, my-rey, 10x0y0z7, 210.0.0.7, dbx'
  expect(withoutNames(said, aliases)).toBe(said)
  expect(withoutNames('Ärey and reyß', aliases)).toBe('Ärey and reyß')
  expect(withoutNames({ n: 1 }, new Map())).toEqual({ n: 1 })
})
