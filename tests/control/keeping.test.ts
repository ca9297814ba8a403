/** How long things stay: what is due goes and gives its space back, what is marked or referred to stays. */
import { existsSync, readdirSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { Readable } from 'node:stream'
import type { Clock } from '../../control/clock'
import { FileRoom } from '../../control/library/files'
import { KeptFrames } from '../../control/ingest/kept-frames'
import { holdKept, Keeping } from '../../control/run/keeping'
import { InnerFaults } from '../../control/store/faults'
import { factStore } from '../../control/store/facts'
import { libraryStore } from '../../control/store/library'
import { openRunFile, openStore } from '../../control/store/open'
import { runStore } from '../../control/store/runs'
import { TargetFile } from '../../control/store/target-file'
import { ownFolder } from '../build/folder'
import { framesOf } from '../build/frames'
import { journey, runDocument } from '../build/plans'

const DAY = 86_400_000
const HOUR = 3_600_000
const NOW = 400 * DAY
const folder = ownFolder()
let houses = 0

function house() {
  const own = join(folder, String(++houses))
  const database = `${own}.db`
  const store = openStore(database)
  const [runs, library] = [runStore(store), libraryStore(store)]
  let now = NOW
  let tick = () => {
    /* set below */
  }
  const clock = {
    now: () => now,
    every: (_: number, call: () => void) => {
      tick = call
      return { cancel: () => undefined }
    },
  } as unknown as Clock
  const runFile = (id: number) => `${own}-run-${id}.db`
  const targetFile = (id: number) => `${own}-run-${id}-target.db`
  const files = new FileRoom(`${own}-files`, library, () => now)
  const faults = new InnerFaults(clock)
  const changed: number[] = []
  const keeping = new Keeping({
    runs,
    library,
    files,
    facts: factStore(store),
    disk: { freeBytes: 7e9 },
    faults,
    clock,
    runFile,
    targetFile,
    database,
    program: join(__dirname, '../../dist/clear-worker.mjs'),
    onChange: id => changed.push(id),
  })
  /** A run that ended some days ago, with exchanges of a megabyte. */
  const run = (daysAgo: number, hours = 0) => {
    const id = runs.create('p', runDocument(), NOW - daysAgo * DAY)
    if (hours > 0) runs.setStart(id, NOW - daysAgo * DAY - hours * HOUR)
    runs.change(id, { at: NOW - daysAgo * DAY, from: 'draining', to: 'settled', event: 'closedAsPlanned', reason: 'x' }, true)
    const file = openRunFile(runFile(id))
    file.exec(`
      INSERT INTO seconds (second, final, figures)
      VALUES (0, 1, '{}');
      INSERT INTO facts (name, value)
      VALUES ('mergedUpTo', '9')
    `)
    new KeptFrames(file).put(framesOf([], { seconds: 0 }).map(f => ({ ...f, generator: 0 })))
    const put = file.prepare(`
      INSERT INTO exemplars (generator, step, kept_for, failure, ended_ms, whole_ms, record)
      VALUES (0, 'Look', 'slowest', '', 0, 1, ?)
    `)
    for (let i = 0; i < 100; i++) put.run('x'.repeat(10_000))
    file.close()
    new TargetFile(targetFile(id)).close()
    return id
  }
  const rows = (id: number, table: string) => {
    const file = openRunFile(runFile(id))
    const n = (file.prepare(`SELECT COUNT(*) AS n FROM ${table}`).get() as { n: number }).n
    file.close()
    return n
  }
  const move = (ms: number) => (now += ms)
  const kept = { faults, store, runs, library, files, runFile, targetFile, keeping }
  return { ...kept, changed, run, rows, tick: () => tick(), move }
}

describe('what is kept', () => {
  it('is everything, for good, as long as nobody says otherwise', async () => {
    const { keeping, run, rows } = house()
    const id = run(390)
    expect(keeping.view()).toMatchObject({
      rules: { foldHours: 2 },
      freeBytes: 7e9,
      due: { runs: 0, exchanges: 0, frames: 0, uploads: 0 },
    })
    expect(await keeping.clear()).toEqual({ freedBytes: 0 })
    expect(rows(id, 'exemplars')).toBe(100)
  })

  it('of exchanges goes after its days, and the space comes back; seconds stay, and whatever is marked', async () => {
    const { keeping, run, rows, runs, runFile, changed } = house()
    const [old, marked, fresh] = [run(31), run(31), run(29)]
    keeping.keep(marked, true)
    keeping.rules = { exchangeDays: 30 }
    expect(keeping.view().due).toEqual({ runs: 0, exchanges: 1, frames: 0, uploads: 0 })
    const before = statSync(runFile(old)).size
    const { freedBytes } = await keeping.clear()
    expect(freedBytes).toBeGreaterThan(900_000)
    expect(statSync(runFile(old)).size).toBe(before - freedBytes)
    expect([old, marked, fresh].map(id => rows(id, 'exemplars'))).toEqual([0, 100, 100])
    expect(rows(old, 'seconds')).toBe(1)
    expect(runs.run(old)).toMatchObject({ exchangesClearedAt: NOW, clearedAt: undefined })
    expect(changed).toEqual([marked, old])
    expect(keeping.view().due.exchanges).toBe(0)
  })

  it('of runs goes after its days, by itself, with its file; the run itself stays, and says what became of it', async () => {
    const { keeping, run, runs, runFile, targetFile, tick, move } = house()
    const [old, marked] = [run(89), run(200)]
    keeping.keep(marked, true)
    keeping.rules = { runDays: 90, exchangeDays: 1 }
    const under = runs.create('p', runDocument(), 0)
    tick()
    await keeping.clear()
    expect(existsSync(runFile(old))).toBe(true)
    move(2 * DAY)
    tick()
    expect((await keeping.clear()).freedBytes).toBeGreaterThan(0)
    expect([old, marked].map(id => existsSync(runFile(id)))).toEqual([false, true])
    expect([old, marked].map(id => existsSync(targetFile(id)))).toEqual([false, true])
    expect(runs.run(old)).toMatchObject({ state: 'settled', clearedAt: NOW + 2 * DAY })
    expect(runs.run(under)!.clearedAt).toBeUndefined()
    expect(() => holdKept(runs.run(old)!)).toThrow(/^What run \d+ measured second by second was given back on 1971-02-07/)
    expect(() => holdKept(runs.run(marked)!)).not.toThrow()
    // Marked no longer, it goes with the next look.
    keeping.keep(marked, false)
    await keeping.clear()
    expect(existsSync(runFile(marked))).toBe(false)
  })

  it('of frames goes when a run took longer than is said, or where one wishes, and cannot be had back', async () => {
    const { keeping, run, rows, runs, move, tick } = house()
    const [long, short, marked, chosen] = [run(3, 5), run(3, 1), run(3, 5), run(3, 1)]
    keeping.keep(marked, true)
    expect(keeping.view().due).toMatchObject({ frames: 1 })
    await keeping.clear()
    expect([long, short, marked].map(id => runs.run(id)!.foldedAt)).toEqual([NOW, undefined, undefined])
    expect([long, short, marked].map(id => rows(id, 'chunks'))).toEqual([0, 1, 1])
    expect(keeping.view().runs.find(r => r.id === long)).toMatchObject({ foldedAt: NOW })
    // What it is decided by is not part of the answer, which is held to its schema.
    expect(keeping.view().runs.every(r => !('tookMs' in r))).toBe(true)
    move(HOUR)
    keeping.fold(chosen)
    for (const id of [long, marked]) expect(() => keeping.fold(id)).toThrow(expect.objectContaining({ code: 'fold', status: 409 }))
    expect(() => keeping.fold(99)).toThrow('run 99')
    for (let i = 0; i < 100 && runs.run(chosen)!.foldedAt === undefined; i++) await new Promise(r => setTimeout(r, 50))
    expect(runs.run(chosen)!.foldedAt).toBe(NOW + HOUR)
    expect(rows(chosen, 'chunks')).toBe(0)
    // Set to nothing, none is.
    keeping.rules = {}
    const another = run(3, 9)
    tick()
    expect(keeping.view().due).toMatchObject({ frames: 0 })
    expect(runs.run(another)!.foldedAt).toBeUndefined()
  })

  it('of uploads goes when nothing refers to it: no version of a journey, no run, nothing that was removed', async () => {
    const { keeping, files, library, runs, move } = house()
    const upload = async (text: string) => (await files.take(Readable.from(Buffer.from(text)), `${text}.bin`)).id
    const [used, earlier, ofRun, nobodys] = [await upload('a'), await upload('b'), await upload('c'), await upload('d')]
    const naming = (id: string) => journey({ notes: id })
    library.saveJourney(naming(earlier), 0, NOW)
    library.saveJourney(naming(used), 1, NOW)
    runs.create('p', runDocument({ journeys: [naming(ofRun)] } as never), NOW)
    move(8 * DAY)
    const fresh = await upload('e')
    keeping.rules = { uploadDays: 7 }
    expect(keeping.view()).toMatchObject({ uploadsBytes: 5, due: { uploads: 1 } })
    expect(await keeping.clear()).toEqual({ freedBytes: 1 })
    expect(library.files().map(f => f.id).sort()).toEqual([used, earlier, ofRun, fresh].sort())
    expect(existsSync(files.path(nobodys))).toBe(false)
  })

  it('stays where a file cannot be cleared, and is tried again', async () => {
    const { keeping, faults, run, runs, runFile } = house()
    const id = run(31)
    keeping.rules = { exchangeDays: 30 }
    const holding = openRunFile(runFile(id))
    holding.exec('BEGIN EXCLUSIVE')
    await keeping.clear()
    expect(runs.run(id)!.exchangesClearedAt).toBeUndefined()
    await keeping.clear()
    // Told where one looks, once, with how often.
    expect(faults.list()).toMatchObject([
      { what: `Exchanges of run ${id} could not be given back`, sentence: 'database is locked', times: 2 },
    ])
    holding.exec('ROLLBACK')
    holding.close()
    await keeping.clear()
    expect(runs.run(id)!.exchangesClearedAt).toBe(NOW)
    expect(faults.list()).toEqual([])
    expect(readdirSync(folder).filter(f => f.endsWith('-wal') && f.includes('run'))).toEqual([])
  })
})
