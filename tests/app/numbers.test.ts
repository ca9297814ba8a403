/** What people type where a number is asked. */
import { lengthText, readLength } from '../../app/format/durations'
import { readNumber, takeNumber } from '../../app/format/numbers'

describe('a number as it is typed', () => {
  it.each([
    ['12.5', 12.5],
    ['12,5', 12.5],
    [' 2 340 ', 2340],
    ['2\u00a0340,75', 2340.75],
    ['-3', -3],
    ['−3', -3],
    ['.5', 0.5],
    ['0', 0],
  ])('%s is %d', (text, number) => expect(readNumber(text)).toBe(number))

  it('is asked for again where it may be either of two', () => {
    expect(readNumber('1,250')).toBe('“1,250” may be 1250 or 1.250: write it without the comma.')
    expect(readNumber('1,250,000')).toMatch(/write it without the comma/)
  })

  it.each(['', 'soon', '1e9', '0x10', 'NaN', '1.2.3', '4 users'])('“%s” is none', (text) => {
    expect(readNumber(text)).toMatch(/is no number/)
  })

  it('says which would do', () => {
    expect(readNumber('x', { min: 0, max: 20 })).toBe('“x” is no number: write one from 0 to 20.')
    expect(readNumber('40', { max: 20 })).toBe('40 is more than 20.')
    expect(readNumber('-1', { min: 0 })).toBe('-1 is less than 0.')
    expect(readNumber('1.5', { min: 1, whole: true })).toBe('1.5 is not whole: write one of 1 or more.')
  })

  it('is handed on only when it is one', () => {
    const taken: number[] = []
    expect(takeNumber('7', { whole: true }, n => taken.push(n))).toBe(true)
    expect(takeNumber('seven', {}, n => taken.push(n))).toMatch(/no number/)
    expect(taken).toEqual([7])
  })
})

describe('a duration as it is typed', () => {
  it.each([
    ['90 s', 90_000],
    ['90', 90_000],
    ['1 h 30 min', 5_400_000],
    ['1h30min', 5_400_000],
    ['0,5 s', 500],
    ['250 ms', 250],
    [' 2 min ', 120_000],
  ])('%s is %d ms', (text, ms) => expect(readLength(text)).toBe(ms))

  it('is in the unit its field says, where it has none', () => {
    expect(readLength('15', { unit: 'min' })).toBe(900_000)
    expect(readLength('15', { unit: 'ms' })).toBe(15)
  })

  it('is refused with what would be right', () => {
    expect(readLength('soon')).toBe('“soon” is no duration: write one such as 90 s or 1 h 30 min.')
    expect(readLength('')).toMatch(/is no duration/)
    expect(readLength('2 s', { min: 5000 })).toBe('2 s is less than 5 s.')
    expect(readLength('3 h', { max: 3_600_000 })).toBe('3 h is more than 1 h.')
    expect(readLength('90 s', { grain: 60_000 })).toBe('90 s is not a whole number of minutes.')
  })

  it('is read back as it is shown', () => {
    for (const ms of [0, 1, 250, 1000, 1500, 59_000, 90_000, 3_600_000, 5_415_000])
      expect(readLength(lengthText(ms))).toBe(ms)
  })
})
