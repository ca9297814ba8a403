/** Tests that hold times against expected ones, beside what they count: they want the computer for themselves. */
export const TIMED = [
  'tests/control/private-hosts',
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
