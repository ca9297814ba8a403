/** The conversation over a plain stream: however it is cut, whatever a host prints before it. */
import fc from 'fast-check'
import { framed, STREAM_MARK, StreamError, StreamReader } from '../../protocol/stream'

const read = (chunks: Buffer[], marked = true) => {
  const got: (string | Uint8Array)[] = []
  const reader = new StreamReader(m => got.push(m), marked)
  for (const c of chunks) reader.take(c)
  return got
}

describe('the stream', () => {
  it('is read the same however it was cut', () => {
    const message = fc.oneof(fc.string({ maxLength: 200 }), fc.uint8Array({ maxLength: 200 }))
    fc.assert(
      fc.property(fc.array(message, { maxLength: 8 }), fc.array(fc.nat(2000), { maxLength: 10 }), (messages, cuts) => {
        const whole = Buffer.concat([STREAM_MARK, ...messages.map(framed)])
        const at = [...new Set(cuts.map(c => c % (whole.length + 1)))].sort((a, b) => a - b)
        const chunks = [...at, whole.length].map((end, i) => whole.subarray(at[i - 1] ?? 0, end))
        expect(read(chunks)).toEqual(messages)
      }),
    )
  })

  it('decodes the example of docs/protocol.md', () => {
    expect(
      read([
        Buffer.from('0076 6f72 6e61 6b2d 6c69 6e6b 0a 0000 0003 00 6869 0000 0003 01 0102'.replaceAll(' ', ''), 'hex'),
      ]),
    ).toEqual(['hi', Uint8Array.of(1, 2)])
  })

  it('passes over what a host greets with, and gives up on one that never stops', () => {
    expect(read([Buffer.from('Last login: yesterday\r\nmotd \0 with a zero\n'), STREAM_MARK, framed('hello')])).toEqual(
      ['hello'],
    )
    expect(() => read([Buffer.alloc(70_000, 'x')])).toThrow(StreamError)
  })

  it('refuses lengths nobody agreed to', () => {
    const head = Buffer.alloc(5)
    head.writeUInt32BE(0xffffffff)
    expect(() => read([head], false)).toThrow('not as agreed')
    expect(() => read([Buffer.alloc(5)], false)).toThrow(StreamError)
  })
})
