/** What a generator fetches before a run, and what it sends beside the frames: nothing lost, nothing taken on trust. */
import { createHash } from 'node:crypto'
import type { ExchangeRecord } from '../../core/journey/exchange-record'
import { ExemplarPost } from '../../generator/link/exemplar-post'
import { SupplyLine } from '../../generator/link/supplies'
import type { FromGenerator, RunSupplies } from '../../protocol/messages'

const hashOf = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex')
const NONE: RunSupplies = { secrets: {}, files: [], feeds: [], generator: 0, generators: 1 }

/** A controller that has these contents. @param spoil changes what is sent */
function lineTo(
  contents: Record<string, Buffer>,
  spoil: (bytes: Buffer, asked: number) => Buffer | undefined = b => b,
) {
  const asked: Extract<FromGenerator, { kind: 'want' }>[] = []
  const line: SupplyLine = new SupplyLine((message) => {
    if (message.kind !== 'want') return
    asked.push(message)
    const bytes = spoil((contents[message.file] ?? Buffer.alloc(0)).subarray(message.from, message.to), asked.length)
    if (bytes)
      setImmediate(() =>
        line.take({ kind: 'part', file: message.file, from: message.from, base64: bytes.toString('base64') }),
      )
  })
  return { line, asked }
}

describe('supplies', () => {
  it('come in parts and are put together as they were', async () => {
    const big = Buffer.from(Array.from({ length: 1_300_000 }, (_, i) => i % 251))
    const id = hashOf(big)
    const { line, asked } = lineTo({ [id]: big })
    const { files } = await line.fetch({ ...NONE, files: [{ id, bytes: big.length }] })
    expect(Buffer.from(files[0]![1]).equals(big)).toBe(true)
    expect(asked.map(a => [a.from, a.to])).toEqual([
      [0, 524_288],
      [524_288, 1_048_576],
      [1_048_576, 1_300_000],
    ])
    // What is here is not fetched again.
    await line.fetch({ ...NONE, files: [{ id, bytes: big.length }] })
    expect(asked).toHaveLength(3)
  })

  it('that came damaged are refused', async () => {
    const content = Buffer.from('the kit')
    const id = hashOf(content)
    const { line } = lineTo({ [id]: content }, b => Buffer.from(b.map((byte, i) => (i === 2 ? byte ^ 1 : byte))))
    await expect(line.fetch({ ...NONE, files: [{ id, bytes: content.length }] })).rejects.toThrow('came damaged')
  })

  it('are asked for again when a part does not come', async () => {
    jest.useFakeTimers({ doNotFake: ['setImmediate'] })
    const content = Buffer.from('slow')
    const id = hashOf(content)
    const { line, asked } = lineTo({ [id]: content }, (b, n) => (n === 1 ? undefined : b))
    const fetching = line.fetch({ ...NONE, files: [{ id, bytes: 4 }] })
    await jest.advanceTimersByTimeAsync(5100)
    expect(Buffer.from((await fetching).files[0]![1]).toString()).toBe('slow')
    expect(asked).toHaveLength(2)
    jest.useRealTimers()
  })

  it('of feeds are the stretch that was given, row by row', async () => {
    const rows = Buffer.from('["a"]\n["b\\nc"]\n["d"]\n')
    const file = hashOf(rows)
    const { line } = lineTo({ [file]: rows })
    const { feeds } = await line.fetch({
      ...NONE,
      feeds: [{ id: 'f', columns: ['x'], file, slice: { fromByte: 6, toByte: rows.length, rows: 2 } }],
    })
    const { slice, whole, columns } = feeds[0]![1]
    expect([columns, whole, [...slice!.offsets]]).toEqual([['x'], undefined, [0, 9, 15]])
    await expect(
      line.fetch({ ...NONE, feeds: [{ id: 'f', columns: ['x'], file, whole: { fromByte: 0, toByte: 6, rows: 3 } }] }),
    ).rejects.toThrow('the feed has 1 rows, 3 were announced')
  })
})

describe('exemplars on their way', () => {
  const record = (body: string) => ({ request: { body }, answer: undefined }) as unknown as ExchangeRecord
  it('gather for a second, go in batches below the largest message, and are sent again until they are safe', () => {
    jest.useFakeTimers()
    const said: Extract<FromGenerator, { kind: 'exemplars' }>[] = []
    const post = new ExemplarPost(9, message => said.push(message as (typeof said)[number]))
    post.add('7', record('a'))
    post.add('7', record('b'))
    expect(said).toEqual([])
    jest.advanceTimersByTime(1000)
    expect(said.map(b => [b.runId, b.batch, b.records.length])).toEqual([['7', 1, 2]])
    for (let i = 0; i < 3; i++) post.add('7', record('x'.repeat(250_000)))
    expect(said.map(b => b.records.length)).toEqual([2, 2])
    post.send(4)
    expect(said.at(-1)).toMatchObject({ batch: 3, dropped: 4, records: [{}] })
    post.acknowledge(9, 1)
    post.acknowledge(8, 2)
    said.length = 0
    post.again()
    expect(said.map(b => b.batch)).toEqual([2, 3])
    expect(post.empty).toBe(false)
    for (const batch of [2, 3]) post.acknowledge(9, batch)
    expect(post.empty).toBe(true)
    post.send(0)
    expect(said).toHaveLength(2)
    jest.useRealTimers()
  })
})
