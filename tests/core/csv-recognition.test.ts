/** Tables are read as they were meant. Outside check: RFC 4180. */
import { recogniseEncoding, recogniseHeader, recogniseSeparator } from '../../core/formats/csv-recognition'

describe('a CSV (RFC 4180)', () => {
  it('tells its encoding by its mark, or by being valid UTF-8', () => {
    expect(recogniseEncoding(Buffer.from('\ufeffa,b', 'utf16le'))).toBe('utf-16le')
    expect(recogniseEncoding(Buffer.from('Blåbær;1'))).toBe('utf-8')
    expect(recogniseEncoding(Buffer.from('Blåbær;1', 'latin1'))).toBe('windows-1252')
    // A sample may end in the middle of a letter.
    expect(recogniseEncoding(Buffer.from('1234567å').subarray(0, 8))).toBe('utf-8')
  })

  it('tells its separator by what cuts its lines alike, not inside quotes', () => {
    expect(recogniseSeparator('a;b;c\n1,5;2;3\n"x;y";2;3\n')).toBe(';')
    expect(recogniseSeparator('a\tb\n1\t2\n')).toBe('\t')
    expect(recogniseSeparator('name;mail\nAna;a@x\nBo\n')).toBe(';')
    expect(recogniseSeparator('"a,b"\n"c"\n')).toBe(',')
    expect(
      recogniseHeader([
        ['name', 'mail'],
        ['Ana', 'a@x'],
      ]),
    ).toBe(true)
    expect([
      recogniseHeader([['1', '2']]),
      recogniseHeader([['a@x.test', 'b']]),
      recogniseHeader([['a', 'a']]),
    ]).toEqual([false, false, false])
  })
})
