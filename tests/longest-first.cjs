/** Files that take longest come first: one of minutes that began last would be waited for alone. */
const Sequencer = require('@jest/test-sequencer').default

/** In the order of what they take, minutes to half of one; the others as Jest would have them. */
const LONGEST = [
  'fleet-faults',
  'link-faults',
  'peak-shift',
  'target-account',
  'run',
  'backup',
  'compare',
  'elsewhere',
  'calibration-faults',
  'own-figures',
  'private-hosts',
  'fleet',
  'journeys',
  'coordinator',
  'handing-on',
].map(name => `/${name}.test.ts`)

module.exports = class LongestFirst extends Sequencer {
  sort(tests) {
    const place = ({ path }) => {
      const at = LONGEST.findIndex(name => path.endsWith(name))
      return at < 0 ? LONGEST.length : at
    }
    return [...super.sort(tests)].sort((a, b) => place(a) - place(b))
  }
}
