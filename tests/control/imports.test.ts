/**
 * Readers in their worker: whatever is put into them, the coordinator's own loop never stands still, and what takes too
 * long ends alone.
 */
import { mkdirSync, readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { Readable } from 'node:stream'
import { strToU8, zipSync } from 'fflate'
import { realClock } from '../../control/clock'
import { Imports } from '../../control/imports/imports'
import { FileRoom, mostBytesOf } from '../../control/library/files'
import { Library } from '../../control/library/library'
import { libraryStore } from '../../control/store/library'
import { openStore } from '../../control/store/open'
import { sealingWith } from '../../control/store/sealing'
import { ownFolder } from '../build/folder'
import { timed } from '../build/timed'

const root = ownFolder()
mkdirSync(join(root, 'files'))
const store = openStore(join(root, 'vornak.db'))
const tables = libraryStore(store)
const files = new FileRoom(join(root, 'files'), tables, () => 5)
const library = new Library(tables, files, sealingWith(join(root, 'key')), realClock, () => [])
const imports = new Imports(join(__dirname, '../../dist/import-worker.mjs'), library)
afterAll(async () => {
  await imports.stop()
  store.close()
})
const upload = async (content: string | Uint8Array, name = 'x') =>
  (await files.take(Readable.from([Buffer.from(content)]), name)).id
const keys = (n: number) => Array.from({ length: n }, (_, i) => `key${i}: ${i}`).join('\n')
const node = (refs: string) =>
  `openapi: 3.1.0\ninfo: { title: T, version: "1" }\npaths: { /n: { post: { requestBody: { content: { application/json: { schema: { $ref: "#/components/schemas/N" } } } } } } }\ncomponents: { schemas: { N: { type: object, properties: { ${refs} } } } }`

/**
 * The longest this thread did not get to look, ms, while something was read. Time in which it wanted a CPU and had none
 * is not counted: readings and other tests share two. The kernel keeps it: the second number of proc_pid_schedstat is
 * the time a thread waited to run, ns.
 */
async function heldUpBy(act: () => Promise<unknown>): Promise<number> {
  const waitedMs = () => Number(readFileSync(`/proc/self/task/${process.pid}/schedstat`, 'utf8').split(' ')[1]) / 1e6
  const look = () => performance.now() - waitedMs()
  let longest = 0
  let before = look()
  const timer = setInterval(() => {
    const now = look()
    longest = Math.max(longest, now - before - 2)
    before = now
  }, 2)
  await act().catch(() => {
    /* looked at elsewhere */
  })
  clearInterval(timer)
  return longest
}

describe('reading in the worker', () => {
  const big = JSON.stringify({
    log: {
      version: '1.2',
      creator: { name: 'a', version: '1' },
      entries: Array.from({ length: 6000 }, (_, i) => ({
        startedDateTime: new Date(i * 1000).toISOString(),
        time: 1,
        request: { method: 'GET', url: `https://a.test/${i}?t=tok-${i}`, headers: [] },
        response: {
          status: 200,
          headers: [],
          content: {
            size: 2000,
            mimeType: 'application/json',
            text: JSON.stringify({ next: `tok-${i + 1}`, pad: 'x'.repeat(2000) }),
          },
        },
      })),
    },
  })
  const file = { api: '', har: '', zip: '', rows: '' }
  beforeAll(async () => {
    file.api = await upload(
      node(['a', 'b', 'c', 'd', 'e'].map(k => `${k}: { $ref: "#/components/schemas/N" }`).join(', ')),
    )
    file.har = await upload(big)
    file.zip = await upload(zipSync({ 'a.har': strToU8(big) }))
    file.rows = await upload(`a,b\n${'1,2\n'.repeat(200_000)}`)
  })
  const readings: [string, () => Promise<unknown>][] = [
    ['a plan with 20,000 keys', () => imports.planText(keys(20_000))],
    ['a journey nested 5,000 deep', () => imports.journeyText('['.repeat(5000))],
    [
      'a journey of 1 MB',
      () => imports.journeyText(`schema: vornak-journey/1\nround:\n${'- { name: a, method: GET }\n'.repeat(38_000)}`),
    ],
    ['an OpenAPI schema that names itself five times', () => imports.convertOpenApi(file.api, ['POST /n'])],
    ['a capture of 15 MB', () => imports.reviewHar(file.har)],
    ['a capture in a zip', () => imports.reviewHar(file.zip)],
    [
      'a table of 30,000 hosts',
      () => imports.hosts(Array.from({ length: 30_000 }, (_, i) => `h${i},10.0.0.1`).join('\n')),
    ],
    ['a feed of 200,000 rows', () => imports.feed(file.rows, 'rows', {})],
    ['addresses without end', () => imports.urls('x '.repeat(99_000))],
  ]
  for (const [what, act] of readings)
    timed(
      `${what} never holds up the loop for 50 ms`,
      async () => {
        // The first start of the worker, and compiling it, is not reading.
        await imports.urls('https://a.test').catch(() => {
          /* only to begin */
        })
        expect(await heldUpBy(act)).toBeLessThan(50)
      },
      30_000,
    )

  it('is bounded in length, depth and number, and says which', async () => {
    const sentences = async (text: string) => {
      const read = await imports.planText(text)
      return read.ok ? [] : read.problems.map(p => p.sentence)
    }
    expect(await sentences('a: '.padEnd(5_000_001, 'x'))).toEqual([expect.stringContaining('at most 5000000 are read')])
    expect(await sentences(Array.from({ length: 120 }, (_, i) => `${' '.repeat(i)}a:`).join('\n'))).toEqual([
      'It is nested more than 100 deep.',
    ])
    expect(await sentences('[['.repeat(3000))).toEqual(['It is nested more than 100 deep.'])
    expect(await sentences('- 1\n'.repeat(210_000))).toEqual(['It holds more than 200000 values.'])
    expect(await sentences('a: 1\nb: 2\na: 3\n')).toEqual(['“a” stands twice in the same place.'])
    // Every key compared with every other took 36 s.
    const began = performance.now()
    expect((await sentences(keys(20_000))).length).toBeGreaterThan(5)
    expect(performance.now() - began).toBeLessThan(5000)
  }, 40_000)

  it('makes no journey larger than the editor can save', async () => {
    const paths = Array.from(
      { length: 3000 },
      (_, i) =>
        `  /p${i}: { post: { requestBody: { content: { application/json: { example: "${'x'.repeat(900)}" } } } } }`,
    ).join('\n')
    const file = await upload(`openapi: 3.0.0\ninfo: { title: T, version: "1" }\npaths:\n${paths}\n`)
    const { operations } = await imports.reviewOpenApi(file)
    await expect(
      imports.convertOpenApi(
        file,
        operations.map(o => o.id),
      ),
    ).rejects.toMatchObject({
      status: 413,
      sentence: expect.stringMatching(/would have \d\.\d MB; at most 1\.9 MB/),
      remedy: 'Choose fewer operations.',
    })
  }, 40_000)

  it('ends what takes too long, says so, and reads what waits behind it', async () => {
    const hasty = new Imports(join(__dirname, '../../dist/import-worker.mjs'), library, 2000)
    const began = performance.now()
    const slow = hasty.journeyText('- a: 1\n'.repeat(700_000))
    const behind = hasty.planText('a: [')
    await expect(slow).rejects.toMatchObject({
      sentence: 'It could not be read within 2 s.',
      remedy: expect.any(String),
    })
    expect(performance.now() - began).toBeLessThan(5000)
    expect(await behind).toMatchObject({ ok: false })
    await hasty.stop()
  }, 30_000)
})

describe('an upload', () => {
  it('is half a gigabyte at most; the archive of a run, which is read as a stream, may be hours of hundreds of generators', () => {
    expect(['rows.csv', 'run.tgz.csv', 'Run-4.TGZ', 'run.tar.gz'].map(name => mostBytesOf(name) / 1024 ** 3)).toEqual([
      0.5, 0.5, 64, 64,
    ])
  })
  it('ends where the disk has no room for more of it, and leaves nothing there', async () => {
    const folder = join(root, 'small')
    let room = 2
    const small = new FileRoom(folder, tables, () => 5, () => {
      if (room-- === 0) throw new Error('no room')
    })
    await expect(small.take(Readable.from(['a', 'b', 'c'].map(t => Buffer.from(t))), 'run.tgz')).rejects.toThrow('no room')
    expect(readdirSync(folder)).toEqual([])
  })
})
