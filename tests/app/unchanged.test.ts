/** What is asked for again keeps the objects it had where nothing has changed. */
import fc from 'fast-check'
import { keepingUnchanged } from '../../app/composables/unchanged'

describe('what was asked for again', () => {
  it('equals what came, whatever was there before, and is not mixed into it', () => {
    fc.assert(fc.property(fc.jsonValue(), fc.jsonValue(), (before, after) => {
      const [was, is] = [structuredClone(before), structuredClone(after)]
      expect(keepingUnchanged(before, after)).toEqual(is)
      expect([before, after]).toEqual([was, is])
    }))
  })

  it('is the same object where it is equal', () => {
    fc.assert(fc.property(fc.jsonValue(), before => keepingUnchanged(before, structuredClone(before)) === before))
  })

  it('keeps the parts that are as they were', () => {
    const before = { document: { plan: ['a'] }, generators: [{ n: 1 }, { n: 2 }], gone: 1 }
    const after = keepingUnchanged(before, { document: { plan: ['a'] }, generators: [{ n: 1 }, { n: 3 }] })
    expect(after).toEqual({ document: { plan: ['a'] }, generators: [{ n: 1 }, { n: 3 }] })
    expect(after.document).toBe(before.document)
    expect(after.generators).not.toBe(before.generators)
    expect(after.generators[0]).toBe(before.generators[0])
  })

  it('tells names in another order apart: as text it is what came', () => {
    fc.assert(fc.property(fc.jsonValue(), fc.jsonValue(), (before, after) => {
      expect(JSON.stringify(keepingUnchanged(before, after))).toBe(JSON.stringify(after))
    }))
    expect(JSON.stringify(keepingUnchanged({ a: 1, b: 2 }, { b: 2, a: 1 }))).toBe('{"b":2,"a":1}')
  })
})
