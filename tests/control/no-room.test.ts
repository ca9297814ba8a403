/** A disk without room, and what goes wrong while nobody asks: nothing of it reaches the process, nothing is lost. */
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Clock } from '../../control/clock'
import { isNoRoom } from '../../control/store/disk'
import { InnerFaults } from '../../control/store/faults'
import { openStore } from '../../control/store/open'
import { runStore } from '../../control/store/runs'
import { tellingClock, unasked } from '../../control/store/unasked'
import { runDocument } from '../build/plans'

const folder = mkdtempSync(join(tmpdir(), 'vornak-no-room-'))
afterAll(() => rmSync(folder, { recursive: true }))

it('what is told of a run while there is no room is known at once, and written once there is', () => {
  const file = join(folder, 'vornak.db')
  const store = openStore(file)
  const runs = runStore(store)
  const id = runs.create('plan', runDocument(), 1)
  // SQLite's own bound stands for the disk's: the same error, at the same place.
  const pages = Number(store.pragma('page_count', { simple: true }))
  store.pragma(`max_page_count = ${pages}`)
  // Whatever is left in pages that are there is filled first.
  const words = 'x'.repeat(3000)
  let told = 0
  const written = () => Number(store.prepare('SELECT COUNT(*) FROM run_changes').pluck().get())
  while (written() === told && told < 50) runs.remark(id, 'loading', 'trouble', `${words} ${told++}`, 1000 + told)
  expect(written()).toBeLessThan(told)
  runs.remark(id, 'loading', 'trouble', 'and another', 2000, 'REY-1')
  const said = runs.changes(id)
  expect(said).toHaveLength(told + 1)
  expect(said.at(-1)).toEqual({
    at: 2000,
    from: 'loading',
    to: 'loading',
    event: 'trouble',
    reason: 'and another',
    about: 'REY-1',
  })
  store.pragma('max_page_count = 100000')
  runs.change(id, { at: 3000, from: 'loading', to: 'draining', event: 'planOver', reason: 'over' }, false)
  store.close()
  const again = openStore(file)
  expect(runStore(again).changes(id).map(c => c.at)).toEqual([...said.map(c => c.at), 3000])
  again.close()
})

it('only what works once there is room is taken for that', () => {
  expect(['SQLITE_FULL', 'ENOSPC'].map(code => isNoRoom(Object.assign(new Error('full'), { code })))).toEqual([true, true])
  expect([new Error('disk is full'), Object.assign(new Error(), { code: 'SQLITE_CONSTRAINT' })].map(isNoRoom)).toEqual([false, false])
})

describe('work that nobody asked for', () => {
  const faults = () => new InnerFaults({ now: () => 7 })
  beforeEach(() => jest.spyOn(console, 'error').mockImplementation(() => undefined))
  afterEach(() => jest.restoreAllMocks())

  it('goes on after what went wrong in it, which is told until it goes well again', () => {
    const book = faults()
    let isFull = true
    const done: number[] = []
    const work = unasked('writing', book, (n: number) => {
      if (isFull) throw new Error('no room')
      done.push(n)
    })
    work(1)
    work(2)
    expect(book.list()).toMatchObject([{ what: 'writing', sentence: 'no room', times: 2 }])
    isFull = false
    work(3)
    expect(done).toEqual([3])
    expect(book.list()).toEqual([])
  })

  it('is held so by the clock too', () => {
    const book = faults()
    const due: (() => void)[] = []
    const slow: Clock = {
      now: () => 5,
      after: (_, call) => (due.push(call), { cancel: () => undefined }),
      every: (_, call) => (due.push(call), { cancel: () => undefined }),
    }
    const clock = tellingClock(slow, book)
    clock.after(1, () => {
      throw new Error('one')
    })
    clock.every(1, () => {
      throw new Error('other')
    })
    for (const call of due) call()
    expect(clock.now()).toBe(5)
    expect(book.list()).toMatchObject([{ sentence: 'other', times: 2 }])
  })
})
