import fc from 'fast-check'
import { MessageError, readFromGenerator, readToGenerator } from '../../protocol/messages'

const FILE = 'a'.repeat(64)
const SUPPLIES = {
  secrets: { password: 'x' },
  files: [{ id: FILE, bytes: 3 }],
  feeds: [{ id: 'f', columns: ['a'], file: FILE, slice: { fromByte: 0, toByte: 9, rows: 1 } }],
  generator: 0,
  generators: 2,
}
const DOCUMENT = { plan: {}, planVersion: 1, target: {}, journeys: [] }

describe('messages about supplies, tries and what commands leave', () => {
  it.each([
    [
      {
        kind: 'prepare',
        runId: '7',
        document: DOCUMENT,
        generators: [[1]],
        post: { location: 0, generator: 0 },
        leaveMs: 1,
        supplies: SUPPLIES,
      },
    ],
    [{ kind: 'try', id: 'x', document: DOCUMENT, supplies: SUPPLIES }],
    [{ kind: 'part', file: FILE, from: 0, base64: 'aGk=' }],
    [
      {
        kind: 'rollCall',
        nonce: 'n',
        hosts: [{ host: 'a:1', secure: false }],
        addressRanges: ['10.0.0.0/8'],
        runtimes: [{ program: 'node', arguments: ['--version'] }],
        selfTestS: 20,
      },
    ],
    [
      {
        kind: 'takeOver',
        runId: '7',
        lost: [{ location: 0, generator: 1, users: [0, 2, 5], passes: [{ group: 1, of: 7, slots: [0, 3] }] }],
      },
    ],
    [{ kind: 'exemplarsAck', incarnation: 1, batch: 2 }],
  ])('to a generator are read: %j', (message) => {
    expect(readToGenerator(JSON.stringify(message))).toEqual(message)
  })

  it.each([
    [{ kind: 'want', file: FILE, from: 0, to: 9 }],
    [{ kind: 'unprepared', runId: '7', problem: 'no' }],
    [{ kind: 'tried', id: 'x', records: [{ step: 'a', request: {}, timings: {} }], problem: '' }],
    [
      {
        kind: 'rollCallReply',
        nonce: 'n',
        program: '1',
        speed: 1,
        memoryFreeBytes: 1,
        descriptors: 1,
        ports: 1,
        diskFreeBytes: -1,
        reached: [],
        runtimes: [{ program: 'node', ok: true, said: 'v20' }],
      },
    ],
    [{ kind: 'exemplars', runId: '7', incarnation: 1, batch: 1, records: [], passes: [], dropped: 0 }],
    [{ kind: 'commandLog', runId: '7', group: 'A', text: 'x' }],
    [{ kind: 'broughtBack', runId: '7', group: 'A', name: 'a.txt', from: 0, base64: '', last: true }],
  ])('from a generator are read: %j', (message) => {
    expect(readFromGenerator(JSON.stringify(message))).toEqual(message)
  })

  it.each([
    ['a file that is no content id', { kind: 'want', file: '../../etc/passwd', from: 0, to: 9 }],
    ['a negative byte', { kind: 'want', file: FILE, from: -1, to: 9 }],
    ['a log without end', { kind: 'commandLog', runId: '7', group: 'A', text: 'x'.repeat(100_001) }],
    [
      'an exemplar that is none',
      { kind: 'exemplars', runId: '7', incarnation: 1, batch: 1, records: [{ a: 1 }], passes: [], dropped: 0 },
    ],
    ['a file without a last part', { kind: 'broughtBack', runId: '7', group: 'A', name: 'a', from: 0, base64: '' }],
  ])('with %s are refused', (_, message) => {
    expect(() => readFromGenerator(JSON.stringify(message))).toThrow(MessageError)
  })
})

describe('control messages', () => {
  it('are read when they are as agreed', () => {
    expect(readToGenerator('{"kind":"go","runId":"7","startAt":12.5}')).toEqual({
      kind: 'go',
      runId: '7',
      startAt: 12.5,
    })
    expect(readFromGenerator('{"kind":"beatReply","t1":1,"t2":2,"t3":3}')).toEqual({
      kind: 'beatReply',
      t1: 1,
      t2: 2,
      t3: 3,
    })
  })

  it.each([
    ['not JSON', '{', 'not JSON'],
    ['of an unknown kind', '{"kind":"dance"}', 'unknown kind “dance”'],
    ['without a kind', '[1]', 'unknown kind'],
    ['with a field missing', '{"kind":"go","runId":"7"}', 'startAt'],
    ['with a field too many', '{"kind":"release","reason":"x","force":true}', 'additional'],
    ['reaching for prototypes', '{"kind":"release","reason":"x","__proto__":{"a":1}}', 'prototypes'],
    ['with a text where a number belongs', '{"kind":"beat","t1":"1","leaseMs":1,"echo":0}', 't1'],
  ])('%s are refused with a reason', (_, json, reason) => {
    expect(() => readToGenerator(json)).toThrow(MessageError)
    expect(() => readToGenerator(json)).toThrow(reason)
  })

  it('never break the reader, whatever comes', () => {
    fc.assert(
      fc.property(fc.oneof(fc.string(), fc.json()), (text) => {
        for (const read of [readToGenerator, readFromGenerator]) {
          try {
            read(text)
          }
          catch (error) {
            expect(error).toBeInstanceOf(MessageError)
          }
        }
      }),
    )
  })
})
