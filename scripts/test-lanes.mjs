/** Lanes of the tests, by what they do: which compute, wait, time and measure. */

/** Tests that hold times against expected ones, beside what they count: they want the computer for themselves. */
export const TIMED = [
  'tests/control/hosts-at-once',
  'tests/control/imports.test',
  'tests/generator/drives',
  'tests/generator/load.test',
  'tests/generator/shaper',
]

/** Those that measure, and prove nothing on a computer that is slow today. */
export const MEASURING = [
  'tests/end-to-end/calibration.test',
  'tests/end-to-end/networks',
  'tests/standins/cpu-share',
  'tests/standins/queueing',
]

/** Of those in the browser, what stays in `npm test`; the others are for `npm run measure` alone. */
export const MEASURING_IN_BROWSER = ['capacity-refined', 'fleet-of-many']

/** They wait for real processes, and for time to pass, more than they compute. */
const WITH_PROCESSES = ['tests/end-to-end', 'tests/control', 'tests/standins', 'tests/generator']

/** Options of Jest: tests that count, and wait. The longest first, so that none is left alone at the end. */
export const WAITING = [
  '--testSequencer=./tests/longest-first.cjs',
  ...WITH_PROCESSES,
  '--testPathIgnorePatterns',
  'tests/browser',
  ...TIMED,
  ...MEASURING,
]

/** Options of Jest: tests that count, and compute; of programs they need none but those of the core. */
export const COMPUTING = ['--testPathIgnorePatterns', 'tests/browser', ...WITH_PROCESSES]
