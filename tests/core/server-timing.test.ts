import fc from 'fast-check'
import { serverTimingMs } from '../../core/journey/server-timing'

/** Headers as W3C Server Timing has them: §2.3, examples 1 to 3 and the rules for parsing in §3. */
it.each([
  ['miss, db;dur=53, app;dur=47.2', 'db', 53],
  ['miss, db;dur=53, app;dur=47.2', 'app', 47.2],
  ['miss, db;dur=53, app;dur=47.2', 'miss', undefined],
  ['customView, dc;desc=atl', 'dc', undefined],
  ['cache;desc="Cache Read";dur=23.2', 'cache', 23.2],
  ['total;dur=123.4', 'total', 123.4],
  // Names of metrics are told apart by capitals, those of parameters are not.
  ['Total;dur=1, total;DUR=2', 'total', 2],
  // Only the first parameter of a name counts, also where it says nothing.
  ['a;dur=1;dur=2', 'a', 1],
  ['a;dur=x;dur=2', 'a', undefined],
  // Commas and semicolons in a description are part of it.
  ['a;desc="x, total;dur=9";dur=3, total;dur=4', 'total', 4],
  ['a;desc="he said \\"total;dur=9\\", and left", total;dur=5', 'total', 5],
  ['  total ; dur = 7 ,b', 'total', 7],
  ['total;dur="8.5"', 'total', 8.5],
  // What is no metric is passed over.
  ['???;;, total;dur=6', 'total', 6],
  ['total;dur=-1', 'total', undefined],
  ['', 'total', undefined],
])('%s: %s is %p', (header, name, ms) => {
  expect(serverTimingMs(header, name)).toBe(ms)
})

it('ends, and never throws, whatever a target sends', () => {
  fc.assert(
    fc.property(fc.string({ unit: fc.constantFrom(...'a;,="\\ dur1.') }), (header) => {
      const ms = serverTimingMs(header, 'a')
      expect(ms === undefined || ms >= 0).toBe(true)
    }),
  )
})
