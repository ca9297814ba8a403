import fc from 'fast-check'
import { MessageError, readFromGenerator, readToGenerator } from '../../protocol/messages'

describe('control messages', () => {
  it('are read when they are as agreed', () => {
    expect(readToGenerator('{"kind":"go","runId":"7","startAt":12.5}')).toEqual({ kind: 'go', runId: '7', startAt: 12.5 })
    expect(readFromGenerator('{"kind":"beatReply","t1":1,"t2":2,"t3":3}')).toEqual({ kind: 'beatReply', t1: 1, t2: 2, t3: 3 })
  })

  it.each([
    ['not JSON', '{', 'not JSON'],
    ['of an unknown kind', '{"kind":"dance"}', 'unknown kind “dance”'],
    ['without a kind', '[1]', 'unknown kind'],
    ['with a field missing', '{"kind":"go","runId":"7"}', 'startAt'],
    ['with a field too many', '{"kind":"release","reason":"x","force":true}', 'additional'],
    ['reaching for prototypes', '{"kind":"release","reason":"x","__proto__":{"a":1}}', 'prototypes'],
    ['with a text where a number belongs', '{"kind":"beat","t1":"1","leaseMs":1}', 't1'],
  ])('%s are refused with a reason', (_, json, reason) => {
    expect(() => readToGenerator(json)).toThrow(MessageError)
    expect(() => readToGenerator(json)).toThrow(reason)
  })

  it('never break the reader, whatever comes', () => {
    fc.assert(fc.property(fc.oneof(fc.string(), fc.json()), (text) => {
      for (const read of [readToGenerator, readFromGenerator]) {
        try { read(text) }
        catch (error) { expect(error).toBeInstanceOf(MessageError) }
      }
    }))
  })
})
