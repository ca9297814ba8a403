/** What answers take unloaded: which staffs have the line, and where it is. */
import { unloadedMs, unloadedOf, type UnloadedTime } from '../../core/result/unloaded'

const times: UnloadedTime[] = [
  { location: 'REY', journeyId: 'look', step: 'Look', ms: 10 },
  { location: 'TAV', journeyId: 'look', step: 'Look', ms: 30 },
  { location: 'REY', journeyId: 'look', step: 'Ask', ms: 50 },
  // Another journey has a step of this name.
  { location: 'REY', journeyId: 'other', step: 'Look', ms: 90 },
]

describe('the unloaded time', () => {
  it.each([
    ['of one step is the mean over its locations', { steps: ['look/Look'] }, 20],
    ['of one location is what it took from there', { steps: ['look/Look'], locations: ['TAV'] }, 30],
    ['tells journeys apart', { steps: ['other/Look'] }, 90],
    ['of a step that was not rehearsed is not there', { steps: ['look/Leave'] }, undefined],
    ['of a location without a rehearsal is not there', { steps: ['look/Ask'], locations: ['TAV'] }, undefined],
    ['of several steps is not there: they have none in common', { steps: ['look/Look', 'look/Ask'] }, undefined],
    ['of all requests is not there where they are several', {}, undefined],
  ])('%s', (_, of, ms) => {
    expect(unloadedMs(times, of)).toBe(ms)
  })

  it('is that of the only step there is', () => {
    expect(unloadedMs(times.slice(0, 2), {})).toBe(20)
    expect(unloadedMs([], {})).toBeUndefined()
  })

  it('stands on staffs of response times alone', () => {
    const only = { step: ['look/Look'] }
    expect(unloadedOf(times, { statistics: ['p95'], measure: 'answered', only })).toBe(20)
    expect(unloadedOf(times, { statistics: ['p50', 'p99'], measure: 'answered', only: { ...only, location: ['REY'] } })).toBe(10)
    expect(unloadedOf(times, { statistics: ['p95'], measure: 'answered', only: { journey: ['other'] } })).toBe(90)
    expect(unloadedOf(times, { statistics: ['p95'], measure: 'firstByte', only })).toBeUndefined()
    expect(unloadedOf(times, { statistics: ['share'], measure: 'failed', only })).toBeUndefined()
  })
})
