/** What a command may bring and write: archives that climb, lines that are no samples. */
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { create, Header } from 'tar'
import { climbs, KitError, unpackKit } from '../../generator/command/kit'
import { findRuntime } from '../../generator/command/runtimes'
import { Lines } from '../../generator/command/lines'
import { readSample } from '../../core/elsewhere/sample-line'
import { ExemplarKeeper } from '../../generator/journey/exemplar-keeper'
import { maskedHeader, maskOf } from '../../generator/journey/masking'
import type { ExchangeRecord } from '../../core/journey/exchange-record'

const folder = mkdtempSync(join(tmpdir(), 'vornak-kits-'))
afterAll(() => rmSync(folder, { recursive: true }))

/**
 * An archive with one file of this path, as a hostile packer would write it: header of 512 bytes, content, two empty
 * blocks (POSIX ustar).
 */
function archiveOf(path: string): Uint8Array {
  const block = Buffer.alloc(512)
  const header = new Header({ path, size: 4, type: 'File', mode: 0o644 })
  header.encode(block, 0)
  const content = Buffer.alloc(512)
  content.write('evil')
  return Buffer.concat([block, content, Buffer.alloc(1024)])
}

describe('a kit', () => {
  it('is unpacked, plain or gzipped', async () => {
    mkdirSync(join(folder, 'good/in'), { recursive: true })
    writeFileSync(join(folder, 'good/in/a.txt'), 'hello')
    for (const gzip of [true, false]) {
      await create({ gzip, file: join(folder, 'kit'), cwd: join(folder, 'good') }, ['.'])
      const unpacked = await unpackKit(readFileSync(join(folder, 'kit')))
      expect(readFileSync(join(unpacked, 'in/a.txt'), 'utf8')).toBe('hello')
      rmSync(unpacked, { recursive: true })
    }
  })

  it.each(['../evil.txt', '/tmp/vornak-evil.txt', 'a/../../evil.txt'])(
    'whose paths climb out is refused, and nothing is written: %s',
    async (path) => {
      await expect(unpackKit(archiveOf(path))).rejects.toThrow(/climbs out of the kit/)
      expect(existsSync('/tmp/vornak-evil.txt')).toBe(false)
    },
  )

  it('with links, or that is no archive, is refused', async () => {
    mkdirSync(join(folder, 'linked'), { recursive: true })
    symlinkSync('/etc', join(folder, 'linked/etc'))
    await create({ file: join(folder, 'linked.tar'), cwd: join(folder, 'linked') }, ['.'])
    await expect(unpackKit(readFileSync(join(folder, 'linked.tar')))).rejects.toThrow('SymbolicLink')
    await expect(unpackKit(Buffer.from('not an archive at all'))).rejects.toThrow(KitError)
  })

  it('knows what climbs', () => {
    expect(['..', '../a', 'a/../../b', '/a', 'C:\\a', '..\\a'].map(climbs)).toEqual([
      true,
      true,
      true,
      true,
      true,
      true,
    ])
    expect(['a', './a', 'a/../b', '...'].map(climbs)).toEqual([false, false, false, false])
  })
})

describe('lines of a command', () => {
  it.each<[string, string | object]>([
    [
      '{"step":"A","duration":12.5,"ok":true,"bytes":7,"time":1000}',
      { step: 'A', durationMs: 12.5, ok: true, bytes: 7, atMs: 1000, message: '' },
    ],
    [
      '{"step":"A","duration":1,"ok":false,"message":"no","time":"1970-01-01T00:00:01Z"}',
      { ok: false, message: 'no', atMs: 1000 },
    ],
    ['hello', 'it is not JSON'],
    ['[1]', 'it is no JSON object'],
    ['{"duration":1,"ok":true}', '“step” is missing'],
    ['{"step":"A","duration":-1,"ok":true}', '“duration” is no number of milliseconds'],
    ['{"step":"A","duration":1,"ok":"yes"}', '“ok” is neither true nor false'],
  ])('%s', (line, expected) => {
    if (typeof expected === 'string') expect(readSample(line)).toBe(expected)
    else expect(readSample(line)).toMatchObject(expected)
  })

  it('come in any pieces; one without an end is given up', () => {
    const seen: string[] = []
    const lines = new Lines(l => seen.push(l))
    lines.add('on')
    lines.add('e\ntwo\n\nth')
    lines.add('x'.repeat(70_000))
    lines.add('still\nfour')
    lines.end()
    expect(seen).toEqual(['one', 'two', 'four'])
  })
})

describe('runtimes', () => {
  it('are asked for their version; one that is not there is told', async () => {
    expect(await findRuntime({ program: process.execPath, arguments: ['--version'] })).toMatchObject({
      ok: true,
      said: process.version,
    })
    expect(await findRuntime({ program: 'no-such-program', arguments: [] })).toMatchObject({
      ok: false,
      said: 'is not installed',
    })
  })
})

describe('exemplars', () => {
  const record = (keptFor: ExchangeRecord['keptFor'], body = ''): ExchangeRecord =>
    ({ keptFor, request: { body }, answer: undefined }) as unknown as ExchangeRecord
  it('are some failures of each kind a second, the slowest of each ten seconds, and one pass in n, within the bound', () => {
    const kept: ExchangeRecord[] = []
    const keeper = new ExemplarKeeper({ failuresPerSecond: 2, slowest: true, oneInPasses: 3, mostMb: 1 }, 0, r =>
      kept.push(r),
    )
    expect([100, 200, 300, 1100].map(now => keeper.wants(0, now, 5, 'status', false))).toEqual([
      'failure',
      'failure',
      undefined,
      'failure',
    ])
    expect(keeper.wants(0, 300, 5, 'timeout', false)).toBe('failure')
    expect(Array.from({ length: 7 }, () => keeper.keepsPass())).toEqual([true, false, false, true, false, false, true])
    for (const ms of [5, 9, 7, 12])
      if (keeper.wants(1, 2000, ms, undefined, false)) keeper.take(1, ms, record('slowest', String(ms)))
    expect(kept).toEqual([])
    keeper.wants(1, 12_000, 1, undefined, false)
    expect(kept.map(r => r.request.body)).toEqual(['12'])
    for (let i = 0; i < 3; i++) keeper.take(1, 1, record('pass', 'x'.repeat(600_000)))
    expect([kept.length, keeper.dropped]).toEqual([2, 2])
  })

  it('have secrets masked in every form they may take', () => {
    const mask = maskOf({ a: 'p@ss "1"', short: 'x' })
    const text = [
      'p@ss "1"',
      encodeURIComponent('p@ss "1"'),
      'p%40ss+%221%22',
      'p@ss \\"1\\"',
      Buffer.from('p@ss "1"').toString('base64').replace(/=+$/, ''),
      Buffer.from('p@ss "1"').toString('hex'),
    ].join(' | ')
    expect(mask(text)).toBe('••• | ••• | ••• | ••• | ••• | •••')
    expect(mask('x-ray')).toBe('x-ray')
  })

  it('have them masked wherever they begin in base64, in escapes, in entities, and where a text was cut within one', () => {
    const secret = 'sésame/"ouvre\'toi"&<ici>'
    const mask = maskOf({ secret })
    const base64 = (before: string, alphabet: BufferEncoding) => Buffer.from(`${before}${secret}:more`).toString(alphabet)
    // What of a secret of 26 bytes may be seen at its edges: less than two characters each.
    for (const before of ['', 'a', 'ab', 'abc', 'user:'])
      for (const alphabet of ['base64', 'base64url'] as const) {
        const masked = mask(base64(before, alphabet))
        const seen = Buffer.from(masked.split('•••')[0]!, alphabet).toString() + Buffer.from(masked.split('•••')[1] ?? '', alphabet).toString()
        expect([before, masked.includes('•••'), /same|ouvre|toi/.test(seen)]).toEqual([before, true, false])
      }
    const escaped = JSON.stringify(secret).slice(1, -1)
    for (const text of [
      encodeURIComponent(secret).toLowerCase(),
      escaped.replaceAll('/', '\\/'),
      escaped.replaceAll('é', '\\u00e9'),
      'sésame/&quot;ouvre&#39;toi&quot;&amp;&lt;ici&gt;',
      Buffer.from(secret).toString('hex').toUpperCase(),
    ])
      expect(mask(`<${text}>`)).toBe('<•••>')
    expect(mask(`seen: ${secret.slice(0, 12)}`)).toBe('seen: •••')
    expect(mask('seen: sés')).toBe('seen: sés')
  })

  it('show of credentials and cookies whose they are, not what they are', () => {
    expect(maskedHeader('Authorization', 'Bearer abc.def.ghi')).toBe('Bearer •••')
    expect(maskedHeader('authorization', 'abcdef')).toBe('•••')
    expect(maskedHeader('X-Api-Key', 'k1 k2')).toBe('•••')
    expect(maskedHeader('Cookie', 'sid=1a2b; theme=dark')).toBe('sid=•••; theme=•••')
    expect(maskedHeader('Set-Cookie', 'sid=1a2b; Path=/; Max-Age=60')).toBe('sid=•••; Path=/; Max-Age=60')
    expect(maskedHeader('accept', 'text/html; q=0.5')).toBe('text/html; q=0.5')
  })
})
