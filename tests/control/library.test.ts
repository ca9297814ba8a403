/** The library: secrets at rest, versions, uploads, feeds of every bad kind, what each generator gets of a feed. */
import { createReadStream, existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { Readable } from 'node:stream'
import fc from 'fast-check'
import type { Client } from '../../core/client/client'
import { realClock } from '../../control/clock'
import { journeyOfUrls, readUrls } from '../../core/formats/pasted-urls'
import { readFeed } from '../../control/imports/read-feed'
import { FileError } from '../../control/imports/text-of-file'
import { findExemplars, keepExemplars } from '../../control/ingest/exemplars'
import { FileRoom } from '../../control/library/files'
import { Library } from '../../control/library/library'
import { quickStart } from '../../control/authoring/quick-start'
import { filesOf, suppliesForLoad, suppliesForTry } from '../../control/library/supplies'
import { mayHave, partOf, trialDocument } from '../../control/library/trial'
import { keepLeftover, listLeftovers, readLeftover } from '../../control/ingest/leftovers'
import { libraryStore } from '../../control/store/library'
import { openRunFile, openStore } from '../../control/store/open'
import { CannotUnseal, isAnythingSealed, sealingWith } from '../../control/store/sealing'
import type { ExchangeRecord } from '../../core/journey/exchange-record'
import { cutRows } from '../../core/run/feed-slices'
import { FeedDealer, offsetsOf } from '../../generator/journey/feed-dealer'
import { seededRandom } from '../../core/random/seeded'
import { enrolmentJourney } from '../build/enrolment'
import { ownFolder } from '../build/folder'
import { journey, offers, plan, runDocument, target } from '../build/plans'

const root = ownFolder()
let folders = 0
function newFolder(): string {
  const folder = join(root, String(++folders))
  mkdirSync(folder)
  return folder
}
function libraryIn(folder = newFolder()) {
  mkdirSync(join(folder, 'data'), { recursive: true })
  const store = openStore(join(folder, 'data', 'vornak.db'))
  const tables = libraryStore(store)
  const files = new FileRoom(join(folder, 'data', 'files'), tables, () => 5)
  return {
    folder,
    store,
    files,
    library: new Library(tables, files, sealingWith(join(folder, 'key')), realClock, () => ['127.0.0.1:4700']),
  }
}
async function feedOf(csv: string | Buffer, reading: Parameters<typeof readFeed>[2] = {}) {
  const folder = newFolder()
  writeFileSync(join(folder, 'in.csv'), csv)
  const read = await readFeed(join(folder, 'in.csv'), join(folder, 'rows'), reading)
  const bytes = readFileSync(join(folder, 'rows'))
  return {
    ...read,
    all: bytes
      .subarray(0, read.rowsBytes)
      .toString()
      .trim()
      .split('\n')
      .map(l => JSON.parse(l) as string[]),
    index: Array.from({ length: read.rows + 1 }, (_, i) => Number(bytes.readBigUInt64LE(read.rowsBytes + i * 8))),
  }
}

describe('clients of one’s own', () => {
  it('are kept beside the presets, refused where they cannot be, and brought back after they were removed', () => {
    const { store, library } = libraryIn()
    const own: Client = { id: 'own', name: 'Own', headers: [['user-agent', 'Own/1']] }
    library.saveClient(own)
    expect(library.clients().at(-1)).toEqual(own)
    expect(() => library.saveClient({ ...own, headers: [['host', 'x']] })).toThrow('not a client’s to say')
    expect(() => library.saveClient({ ...own, id: 'phone-app' })).toThrow('is a preset')
    library.removeClient('own')
    // Somebody else removes it once more: what was kept to be brought back stays.
    expect(() => library.removeClient('own')).toThrow('There is no client “own”.')
    library.restore('client', 'own')
    expect(library.clients().at(-1)).toEqual(own)
    store.close()
  })
})

describe('secrets', () => {
  it('lie sealed, open with their key alone and in their place alone (AES-256-GCM)', () => {
    const { folder, store, library } = libraryIn()
    library.saveTarget(target({ id: 't' }), { password: 'sésame' })
    expect(library.secretsOf(library.target('t')!)).toEqual({ password: 'sésame' })
    store.close()
    for (const file of readdirSync(join(folder, 'data')))
      if (file.startsWith('vornak')) expect(readFileSync(join(folder, 'data', file)).includes('sésame')).toBe(false)
    const sealing = sealingWith(join(folder, 'key'))
    const sealed = sealing.seal('x', 'a/b')
    expect(sealing.unseal(sealed, 'a/b')).toBe('x')
    expect(() => sealing.unseal(sealed, 'a/c')).toThrow(CannotUnseal)
    expect(() => sealingWith(join(folder, 'other')).unseal(sealed, 'a/b')).toThrow('sealed with another key')
    // A key that is gone while something is sealed with it is not made anew, and nothing is sealed meanwhile.
    rmSync(join(folder, 'key'))
    const again = openStore(join(folder, 'data', 'vornak.db'))
    expect(isAnythingSealed(again)).toBe(true)
    const lost = sealingWith(join(folder, 'key'), isAnythingSealed(again))
    expect(lost.trouble).toContain('is gone, and secrets are sealed with it')
    expect(() => lost.unseal(sealed, 'a/b')).toThrow(CannotUnseal)
    expect(() => lost.seal('y', 'a/b')).toThrow('is gone')
    expect(existsSync(join(folder, 'key'))).toBe(false)
    again.close()
    writeFileSync(join(folder, 'bad'), 'no key')
    expect(() => sealingWith(join(folder, 'bad'))).toThrow('holds no key of 64 hexadecimal digits')
  })

  it('belong to the hosts they were given for: a target that leads elsewhere wants them again', () => {
    const { library } = libraryIn()
    library.saveTarget(target({ id: 't' }), { a: '1', b: '2' })
    const elsewhere = { ...library.target('t')!, baseUrl: 'https://other.example/x' }
    expect(() => library.saveTarget(elsewhere)).toThrow(
      'The secret a was given for 127.0.0.1:1; Portal leads to other.example:443 as well.',
    )
    expect(() => library.saveTarget({ ...library.target('t')!, addresses: { more: 'http://third.example' } })).toThrow(
      'leads to third.example:80',
    )
    expect(() => library.saveTarget(elsewhere, { a: '3' })).toThrow('The secret b')
    // Nothing was kept by halves.
    expect(library.target('t')!.baseUrl).toBe('http://127.0.0.1:1')
    expect(library.secretsOf(library.target('t')!)).toEqual({ a: '1', b: '2' })
    // Another path of the same host, fewer of them, or given again.
    library.saveTarget({ ...library.target('t')!, baseUrl: 'http://127.0.0.1:1/below' })
    library.saveTarget({ ...elsewhere, secretNames: ['a'] }, { a: '3' })
    expect(library.secretsOf(library.target('t')!)).toEqual({ a: '3' })
    // A run of an earlier document would send it where it does not belong.
    expect(() => library.secretsOf({ ...target({ id: 't' }), secretNames: ['a'] })).toThrow(
      'The secret a was given for other.example:443',
    )
  })

  it('kept by an earlier release still open, and are bound when they are given again', () => {
    const { store, library, folder } = libraryIn()
    library.saveTarget(target({ id: 't', secretNames: ['old'] }))
    store
      .prepare('INSERT INTO secrets (target_id, name, sealed) VALUES (?, ?, ?)')
      .run('t', 'old', sealingWith(join(folder, 'key')).seal('hush', 't/old'))
    expect(library.secretsOf(library.target('t')!)).toEqual({ old: 'hush' })
    library.saveTarget(library.target('t')!, { old: 'new' })
    expect(() => library.saveTarget({ ...library.target('t')!, baseUrl: 'http://b.example' })).toThrow('secret old')
  })

  it('go when their name goes, stay when nothing is said of them', () => {
    const { library } = libraryIn()
    library.saveTarget(target({ id: 't' }), { a: '1', b: '2' })
    library.saveTarget({ ...library.target('t')!, name: 'Renamed' })
    expect(library.secretsOf(library.target('t')!)).toEqual({ a: '1', b: '2' })
    library.saveTarget({ ...library.target('t')!, secretNames: ['b'] })
    expect(library.secretsOf(library.target('t')!)).toEqual({ b: '2' })
  })
})

describe('the library', () => {
  it('never approves Vornak itself, an address that is none, or a zone nobody knows', () => {
    const { library } = libraryIn()
    expect(() =>
      library.saveTarget(
        target({ approval: { hosts: ['127.0.0.1:4700'], mostUsers: 1, until: '2999-01-01T00:00:00Z', contact: 'x' } }),
      ),
    ).toThrow('is Vornak itself')
    expect(() =>
      library.saveTarget(target({ approval: { ...target().approval!, addressRanges: ['10.0.0.0/99'] } })),
    ).toThrow('“10.0.0.0/99” is no range of addresses')
    expect(() => library.saveTarget(target({ baseUrl: 'ftp://a' }))).toThrow('is no address of a target')
    expect(() =>
      library.saveTarget(
        target({
          approval: {
            hosts: ['a:1'],
            mostUsers: 1,
            until: '2999-01-01T00:00:00Z',
            contact: 'x',
            window: { from: '08:00', to: '09:00', zone: 'Middle/Earth' },
          },
        }),
      ),
    ).toThrow('is no time zone')
  })

  it('keeps every version of a journey, and refuses a save over somebody else’s', () => {
    const { library } = libraryIn()
    library.saveJourney(journey(), 0)
    library.saveJourney(journey({ name: 'Second' }), 1)
    expect(() => library.saveJourney(journey({ name: 'Late' }), 1)).toThrow('saved by somebody else')
    expect(library.store.journeyHistory('look').map(v => [v.version, v.name])).toEqual([
      [2, 'Second'],
      [1, 'Look around'],
    ])
    expect(library.journey('look', 1).journey.name).toBe('Look around')
    expect(library.journeys().map(j => j.name)).toEqual(['Second'])
  })

  it('does not remove what something still needs', () => {
    const { library } = libraryIn()
    library.saveTarget(target())
    library.saveJourney(journey())
    library.savePlan('p', plan(), 0)
    expect(() => library.removeJourney('look')).toThrow('walked in A plan')
    expect(() => library.removeTarget('portal')).toThrow('that of A plan')
  })

  it('keeps no more secrets of a target than can be saved again', () => {
    const { library } = libraryIn()
    const names = Array.from({ length: 60 }, (_, i) => `s${i}`)
    const more = Object.fromEntries(names.map(name => [`other-${name}`, 'x']))
    expect(() => library.saveTarget(target({ secretNames: names }), more)).toThrow('120 secrets; 100 are the most')
    expect(library.targets()).toEqual([])
  })

  it('brings back what was removed: all versions, sealed secrets; nothing is written over', () => {
    const { library } = libraryIn()
    library.saveTarget(target({ secretNames: ['key'] }), { key: 'hush' })
    library.saveJourney(journey())
    library.saveJourney(journey({ name: 'Second' }))
    library.removeTarget('portal')
    library.removeJourney('look')
    expect([library.targets(), library.journeys()]).toEqual([[], []])
    library.restore('target', 'portal')
    library.restore('journey', 'look')
    expect(library.targets()).toEqual([target({ secretNames: ['key'] })])
    expect(library.secretsOf(library.target('portal')!)).toEqual({ key: 'hush' })
    expect(library.store.journeyHistory('look').map(h => h.version)).toEqual([2, 1])
    expect(() => library.restore('journey', 'look')).toThrow('removed journey look')
    library.removeJourney('look')
    library.saveJourney(journey({ name: 'Another of that id' }))
    expect(() => library.restore('journey', 'look')).toThrow('removed journey look')
    expect(library.journeys().map(j => j.name)).toEqual(['Another of that id'])
  })

  it('makes a journey, a target to be approved and a small plan from pasted addresses', () => {
    const { library } = libraryIn()
    const made = quickStart(library, journeyOfUrls(readUrls('https://shop.test/a https://shop.test/b')), offers())
    expect(made).toEqual({ journeyId: 'visit-shop-test', targetId: 'shop-test', planId: 'first-look-at-shop-test' })
    expect(library.target(made.targetId)!.approval).toBeUndefined()
    expect(library.plan(made.planId)!.plan).toMatchObject({
      targetId: made.targetId,
      groups: [{ journeyId: made.journeyId }],
    })
  })

  it('asks of pasted addresses what was asked for: users, length, places; an approval that is recorded stays', () => {
    const { library } = libraryIn()
    const { approval } = target()
    const places = [{ provider: 'nimbral', region: 'reyk' }, { provider: 'nimbral', region: 'tavira' }]
    const ask = { users: 300, holdS: 90, places, approval: approval! }
    const made = quickStart(library, journeyOfUrls(readUrls('https://shop.test/a')), offers(), ask)
    expect(library.target(made.targetId)!.approval).toEqual(approval)
    const { plan } = library.plan(made.planId)!
    expect(plan.question).toBe('Does shop.test answer 300 users within a second?')
    expect(plan.locations.map(l => l.code)).toEqual(['REY', 'TAV'])
    expect(plan.placement).toEqual({ A: { REY: 5000, TAV: 5000 } })
    expect(plan.groups[0]!.profile.segments).toEqual([
      { to: 300, overMs: 60_000 },
      { to: 300, overMs: 90_000 },
      { to: 0, overMs: 5000 },
    ])
    const again = { ...ask, approval: { ...approval!, mostUsers: 1 } }
    quickStart(library, journeyOfUrls(readUrls('https://shop.test/b')), offers(), again)
    expect(library.target(made.targetId)!.approval).toEqual(approval)
    const nowhere = { places: [{ provider: 'nimbral', region: 'atlantis' }] }
    expect(() => quickStart(library, journeyOfUrls(readUrls('https://b.test/')), offers(), nowhere)).toThrow('region atlantis')
    expect(library.targets().map(t => t.name)).toEqual(['shop.test'])
  })

  it('keeps uploads by their content, and refuses none and too much', async () => {
    const { library, files } = libraryIn()
    const one = await files.take(Readable.from([Buffer.from('hello')]), 'a.txt')
    // SHA-256 of “hello”, FIPS 180-4; value of any sha256sum.
    expect(one.id).toBe('2cf24dba5fb0a30e26e83b2ac5b9e29e1b161e5c1fa7425e73043362938b9824')
    expect(files.read(one.id, 1, 3).toString()).toBe('el')
    expect((await files.take(Readable.from([Buffer.from('hello')]), 'b.txt')).id).toBe(one.id)
    await expect(files.take(Readable.from([]), 'c')).rejects.toThrow('is empty')
    expect(() => files.path('../../etc/passwd')).toThrow('no such file')
    expect(library.files.has(one.id)).toBe(true)
  })
})

describe('a feed', () => {
  it('is read as it is written, quotes, line ends and letters (RFC 4180), and its index finds every row', async () => {
    const feed = await feedOf('name,quote\r\nAna,"said ""hi"", then\r\nleft"\r\nBø,2\r\n')
    expect(feed).toMatchObject({
      columns: ['name', 'quote'],
      rows: 2,
      encoding: 'utf-8',
      separator: ',',
      header: true,
      all: [
        ['Ana', 'said "hi", then\r\nleft'],
        ['Bø', '2'],
      ],
    })
    const bytes = Buffer.from(feed.all.map(r => `${JSON.stringify(r)}\n`).join(''))
    expect(feed.index).toEqual([0, bytes.indexOf(10) + 1, bytes.length])
  })

  it.each<[string, string | Buffer, object]>([
    ['a byte-order mark', '\ufeffid,b\n1,2\n', { columns: ['id', 'b'], remarks: ['a byte-order mark was left out'] }],
    [
      'UTF-16',
      Buffer.from('\ufeffid;b\nå;2\n', 'utf16le'),
      { encoding: 'utf-16le', separator: ';', all: [['å', '2']] },
    ],
    [
      'Windows-1252',
      Buffer.concat([Buffer.from('id;b\nå;', 'latin1'), Buffer.from([0x80, 0x0a])]),
      { encoding: 'windows-1252', all: [['å', '€']] },
    ],
    ['no line of names', '1,2\n3,4\n', { columns: ['column1', 'column2'], rows: 2, header: false }],
    [
      'names no template could write',
      'user name,user name,"",é\n1,2,3,4\n',
      { columns: ['user_name', 'user_name_2', 'column3', 'column4'] },
    ],
    ['one column', 'name\nAna\n', { columns: ['name'], rows: 1 }],
  ])('with %s is read', async (_, csv, expected) => {
    expect(await feedOf(csv, _.startsWith('names') ? { header: true } : {})).toMatchObject(expected)
  })

  it.each<[string, string | Buffer, string]>([
    ['ragged rows', 'a,b\n1,2\n3\n4,5,6\n', '2 rows have another number of columns than 2: row 3 has 1, row 4 has 3.'],
    ['an open quote', 'a,b\n1,"2\n', 'A quotation mark is opened and never closed.'],
    ['a stray quote', 'a,b\n1,2\n3,x"y\n', 'Line 3 cannot be read: Invalid Opening Quote'],
    [
      'a byte that is not UTF-8, far down',
      Buffer.concat([Buffer.from('a,b\n' + '1,2\n'.repeat(20_000)), Buffer.from([0x33, 0x2c, 0xe5, 0x6c, 0x0a])]),
      'The file is not UTF-8 all through: there is a byte that is none in line 20002.',
    ],
    ['names alone', 'a,b\n', 'The file has no row.'],
    ['a spreadsheet', Buffer.from([0x50, 0x4b, 3, 4, 0, 0]), 'This is an archive or a spreadsheet'],
    ['bytes that are no text', Buffer.from([1, 0, 2, 0, 0, 0]), 'The file is not text.'],
  ])('with %s is refused in words', async (_, csv, words) => {
    await expect(feedOf(csv, { header: true })).rejects.toThrow(FileError)
    await expect(feedOf(csv, { header: true })).rejects.toThrow(
      words.replace('The file has no row.', 'The file has a line of names and no row.'),
    )
  })

  it('has short rows filled and long ones cut, when that is chosen', async () => {
    expect(await feedOf('a,b\n1\n2,3,4\n', { ragged: 'fill' })).toMatchObject({
      all: [
        ['1', ''],
        ['2', '3'],
      ],
      remarks: ['2 rows of another length were filled or cut'],
    })
  })

  it('of two hundred thousand rows is read without holding it', async () => {
    const folder = newFolder()
    const path = join(folder, 'big.csv')
    writeFileSync(
      path,
      `id,mail\n${Array.from({ length: 200_000 }, (_, i) => `${i},user${i}@example.org`).join('\n')}\n`,
    )
    const feed = await readFeed(path, join(folder, 'rows'), {})
    expect(feed.rows).toBe(200_000)
    const end = feed.rowsBytes + feed.rows * 8
    const index = await new Promise<Buffer>((resolve) => {
      const parts: Buffer[] = []
      createReadStream(join(folder, 'rows'), { start: end, end: end + 7 })
        .on('data', p => parts.push(p as Buffer))
        .on('end', () => resolve(Buffer.concat(parts)))
    })
    expect(Number(index.readBigUInt64LE())).toBe(feed.rowsBytes)
  }, 120_000)
})

describe('rows that are dealt once', () => {
  it('are cut so that nobody ever holds another’s, whatever the fleet: over generators, workers and users', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 400 }),
        fc.array(fc.nat(30), { minLength: 1, maxLength: 6 }),
        fc.integer({ min: 1, max: 4 }),
        fc.nat(5),
        (rows, users, workers, reserved) => {
          const ranges = cutRows(rows, reserved, users)
          const bytes = (from: number, to: number) =>
            new TextEncoder().encode(Array.from({ length: to - from }, (_, i) => `["${from + i}"]\n`).join(''))
          const dealt: string[] = []
          ranges.forEach(({ from, to }, generator) => {
            for (let worker = 0; worker < workers; worker++) {
              const mine = bytes(from, to)
              const dealer = new FeedDealer(
                { bytes: mine, offsets: offsetsOf(mine, to - from) },
                'once',
                false,
                { generator, generators: users.length, worker, workers },
                seededRandom(1),
              )
              for (let row = dealer.next(); row; row = dealer.next()) dealt.push(row[0]!)
            }
          })
          expect(new Set(dealt).size).toBe(dealt.length)
          const shared = users.some(n => n > 0) ? Math.max(0, rows - reserved) : 0
          expect(dealt.map(Number).sort((a, b) => a - b)).toEqual(Array.from({ length: shared }, (_, i) => i))
          expect(users.every((n, g) => n > 0 || ranges[g]!.from === ranges[g]!.to)).toBe(true)
        },
      ),
    )
  })

  it('in order are walked once by the whole fleet before any comes again; at random any may come', () => {
    const bytes = new TextEncoder().encode(Array.from({ length: 10 }, (_, i) => `["${i}"]\n`).join(''))
    const rows = { bytes, offsets: offsetsOf(bytes, 10) }
    const dealers = [0, 1].flatMap(generator =>
      [0, 1].map(
        worker =>
          new FeedDealer(rows, 'inOrder', false, { generator, generators: 2, worker, workers: 2 }, seededRandom(1)),
      ),
    )
    const all = dealers.flatMap((d) => {
      const mine: number[] = []
      for (let row = d.next(); row; row = d.next()) mine.push(Number(row[0]))
      return mine
    })
    expect(all.sort((a, b) => a - b)).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8, 9])
    const again = new FeedDealer(
      rows,
      'inOrder',
      true,
      { generator: 0, generators: 1, worker: 0, workers: 1 },
      seededRandom(1),
    )
    expect(Array.from({ length: 12 }, () => again.next()![0]).slice(9)).toEqual(['9', '0', '1'])
    const random = new FeedDealer(
      rows,
      'atRandom',
      false,
      { generator: 0, generators: 1, worker: 0, workers: 1 },
      seededRandom(1),
    )
    expect(new Set(Array.from({ length: 200 }, () => random.next()![0])).size).toBe(10)
  })

  it('travel as bytes of the rows file, a stretch for each generator; a try takes the last row, which the load leaves alone', async () => {
    const { library, files } = libraryIn()
    library.saveTarget(target(), { password: 'p' })
    const folder = newFolder()
    writeFileSync(join(folder, 'in.csv'), `name\n${Array.from({ length: 11 }, (_, i) => `s${i}`).join('\n')}\n`)
    const { rowsFile, ...read } = await readFeed(join(folder, 'in.csv'), join(folder, 'rows'), {})
    files.adopt(join(folder, 'rows'), rowsFile, 'rows')
    library.saveFeed({ id: 'students', name: 'students', source: rowsFile, rowsFile, ...read })
    const document = runDocument({
      target: library.target('portal')!,
      journeys: [enrolmentJourney()],
      plan: plan({ groups: [{ ...plan().groups[0]!, journeyId: 'enrolment' }], rehearse: false }),
    })
    const taken = [0, 1].map((g) => {
      const { feeds, secrets } = suppliesForLoad(library, document, g)
      expect(secrets).toEqual({ password: 'p' })
      const { fromByte, toByte, rows } = feeds[0]!.slice!
      const text = files.read(rowsFile, fromByte, toByte).toString().trim()
      expect(text === '' ? 0 : text.split('\n').length).toBe(rows)
      return text.split('\n').map(l => (JSON.parse(l) as string[])[0]!)
    })
    expect(taken.flat()).toEqual(Array.from({ length: 10 }, (_, i) => `s${i}`))
    const { slice } = suppliesForTry(library, document, 0).feeds[0]!
    expect(files.read(rowsFile, slice!.fromByte, slice!.toByte).toString()).toBe('["s10"]\n')
  })
})

describe('what a generator may ask for', () => {
  it('is what its run needs, and nothing else of the library', async () => {
    const { library, files } = libraryIn()
    const [mine, other] = await Promise.all(
      ['mine', 'other'].map(text => files.take(Readable.from([Buffer.from(text)]), text)),
    )
    const document = runDocument({
      journeys: [
        journey({
          round: [
            {
              name: 'Send',
              method: 'POST',
              url: '/',
              think: { kind: 'none' },
              timeoutMs: 1,
              body: { kind: 'multipart', parts: [{ name: 'f', file: mine!.id, fileName: 'f', type: 'text/plain' }] },
            },
          ],
        }),
      ],
    })
    expect([mayHave(library, document, mine!.id), mayHave(library, document, other!.id)]).toEqual([true, false])
    expect(
      Buffer.from(partOf(library, { kind: 'want', file: mine!.id, from: 1, to: 3 }).base64, 'base64').toString(),
    ).toBe('in')
    expect(partOf(library, { kind: 'want', file: 'f'.repeat(64), from: 0, to: 3 }).base64).toBe('')
    expect(suppliesForLoad(library, document, 0).files).toEqual([{ id: mine!.id, bytes: 4 }])
  })

  it('of a journey that was tried is its own kit or files, by content', () => {
    const command = {
      schema: 'vornak-journey/1' as const,
      kind: 'command' as const,
      id: 'c',
      name: 'C',
      kit: 'c'.repeat(64),
      runtimes: [],
      run: ['x'],
      steps: [],
      bringBack: [],
    }
    expect(filesOf(command)).toEqual(['c'.repeat(64)])
    expect(filesOf(journey())).toEqual([])
    expect(trialDocument(journey(), target())).toMatchObject({
      plan: { groups: [{ journeyId: 'look' }], locations: [{ code: 'TRY' }], rehearse: false },
      journeys: [{ id: 'look' }],
    })
  })
})

describe('what commands leave', () => {
  it('is kept by generator, group and name, the last of each', () => {
    const store = openRunFile(join(newFolder(), 'run.db'))
    keepLeftover(store, 0, 'A', 'log', Buffer.from('one'))
    keepLeftover(store, 0, 'A', 'log', Buffer.from('two!'))
    keepLeftover(store, 1, 'A', 'a.txt', Buffer.from([0, 255]))
    expect(listLeftovers(store)).toEqual([
      { generator: 0, group: 'A', name: 'log', bytes: 4 },
      { generator: 1, group: 'A', name: 'a.txt', bytes: 2 },
    ])
    expect([...readLeftover(store, 1, 'A', 'a.txt')!]).toEqual([0, 255])
    expect(readLeftover(store, 2, 'A', 'log')).toBeUndefined()
    store.close()
  })
})

describe('exemplars in a run’s file', () => {
  const record = (over: Partial<ExchangeRecord>): ExchangeRecord => ({
    keptFor: 'pass',
    group: 'A',
    journeyId: 'j',
    step: 'Look',
    user: 1,
    pass: 1,
    beganAtMs: 0,
    endedAtMs: 1500,
    request: { method: 'GET', url: 'http://a.test/', headers: [], body: '', bodyBytes: 0 },
    answer: undefined,
    hops: [],
    timings: { lookupMs: -1, connectMs: -1, tlsMs: -1, firstByteMs: 1, wholeMs: 10 },
    failure: undefined,
    problem: '',
    checks: [],
    captured: [],
    ...over,
  })
  it('are kept once, however often a batch comes, and found by step, band, failure and second', () => {
    const store = openRunFile(join(newFolder(), 'run.db'))
    const batch = {
      incarnation: 1,
      batch: 1,
      dropped: 2,
      passes: [],
      records: [
        record({}),
        record({
          step: 'Ask',
          timings: { lookupMs: -1, connectMs: -1, tlsMs: -1, firstByteMs: 1, wholeMs: 90 },
          endedAtMs: 4500,
          failure: 'status',
        }),
      ],
    }
    keepExemplars(store, 0, batch)
    keepExemplars(store, 0, batch)
    expect(findExemplars(store, { most: 10 })).toMatchObject({
      total: 2,
      dropped: 2,
      records: [{ step: 'Ask', generator: 0 }, { step: 'Look' }],
    })
    expect(findExemplars(store, { most: 10, step: 'Look' }).total).toBe(1)
    expect(findExemplars(store, { most: 10, failure: 'any' }).records.map(r => r.step)).toEqual(['Ask'])
    expect(findExemplars(store, { most: 10, fromMs: 10, toMs: 90 }).records.map(r => r.step)).toEqual(['Look'])
    expect(findExemplars(store, { most: 10, fromS: 4, toS: 5 }).records.map(r => r.step)).toEqual(['Ask'])
    expect(findExemplars(store, { most: 0 }).total).toBe(2)
    store.close()
  })
})
