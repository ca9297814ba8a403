/** Tests that hold times against expected ones: they want the computer for themselves. */
export const TIMED = [
  'tests/end-to-end/calibration.test',
  'tests/control/private-hosts',
  'tests/end-to-end/networks',
  'tests/standins/cpu-share',
  'tests/standins/queueing',
  'tests/generator/drives',
  'tests/generator/load.test',
  'tests/generator/shaper',
]
