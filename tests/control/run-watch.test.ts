/** What is kept of a source beside a run: how old its newest value is, and up to when it was read. */
import { join } from 'node:path'
import type { Clock } from '../../control/clock'
import { Inbox } from '../../control/target/inbox'
import { RunWatch, type SourceNews } from '../../control/target/run-watch'
import type { Source } from '../../core/target/source'
import { ownFolder } from '../build/folder'
import { target } from '../build/plans'

const folder = ownFolder()
const sent: Source = { name: 's', kind: 'sent', address: '', everyS: 1, series: [{ name: 'open', of: 'open', kind: 'gauge' }] }
const failing: Source = { ...sent, name: 'f', kind: 'command', address: 'a/b', command: 'true', series: [{ name: 'x', of: 'x', kind: 'gauge' }] }

function watched(sources: Source[]) {
  let now = 1_700_000_000_000
  let due: { at: number, call: () => void }[] = []
  const clock: Clock = {
    now: () => now,
    after: (ms, call) => {
      const entry = { at: now + ms, call }
      due.push(entry)
      return { cancel: () => void (due = due.filter(d => d !== entry)) }
    },
    every: () => ({ cancel: () => undefined }),
  }
  const inbox = new Inbox()
  const news: SourceNews[] = []
  const watch = new RunWatch({
    runId: 1,
    target: target({ id: 't', sources }),
    secrets: {},
    commands: { open: () => Promise.reject(new Error('nobody is there')) },
    inbox,
    path: join(folder, `${Math.random()}.db`),
    clock,
    onNews: n => news.push(n),
  })
  /** Second by second, with all that is due in it. */
  const pass = async (seconds: number) => {
    for (let s = 0; s < seconds; s++) {
      now += 1000
      const calls = due.filter(d => d.at <= now)
      due = due.filter(d => d.at > now)
      calls.forEach(d => d.call())
      for (let i = 0; i < 5; i++) await new Promise(r => setImmediate(r))
    }
  }
  const send = (value: number, ageMs = 0) =>
    inbox.of('t', 's').put({ samples: [{ name: 'open', labels: {}, value, atMs: now - ageMs }], at: now })
  return { watch, pass, send, news, now: () => now, standing: (name: string) => watch.file.standings().get(name)! }
}

it('what comes no more grows older, second by second, and is waited for', async () => {
  const { watch, pass, send, now, standing } = watched([sent])
  await pass(1)
  send(4, 250)
  const sentAt = now()
  await pass(1)
  expect(standing('s').ageMs).toBe(1250)
  await pass(40)
  expect(standing('s')).toMatchObject({ ageMs: 41_250, readAt: now(), readings: 42 })
  const open = new Set(['open'])
  expect([watch.isRead(open, sentAt - 250), watch.isRead(open, sentAt), watch.isRead(new Set(['other']), now())]).toEqual([true, false, true])
  send(5)
  await pass(1)
  expect(standing('s').ageMs).toBe(1000)
  expect(watch.isRead(open, now() - 1000)).toBe(true)
  await watch.close()
})

it('what cannot be read is told once, and not waited for', async () => {
  const { watch, pass, news, now } = watched([failing])
  await pass(3)
  expect(news.map(n => [n.event, n.source])).toEqual([['sourceSilent', 'f']])
  expect(watch.isRead(new Set(['x']), now())).toBe(true)
  await watch.close()
})
