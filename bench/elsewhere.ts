/**
 * `elsewhere`: a million rows of CSV become a run, against parsing the same rows alone; lines that are told live on one
 * core, against parsing them as JSON alone.
 */
import { createWriteStream, mkdtempSync, readFileSync, rmSync, statSync } from 'node:fs'
import { once } from 'node:events'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import Papa from 'papaparse'
import { mergeResults } from '../control/elsewhere/merge-results'
import { beginningOf } from '../control/elsewhere/read-results'
import { RunMerge } from '../control/ingest/run-merge'
import { ToldLive } from '../control/ingest/told-live'
import { claimedDocument } from '../core/elsewhere/claimed-document'
import { recognise } from '../core/elsewhere/recognise'
import { seededRandom } from '../core/random/seeded'
import { tell } from './measure'

const ROWS = 1_000_000
const QUICK_ROWS = 100_000
const STEPS = 20
const USERS = 300
const IMPORT_GOAL_MS = 15_000
const MEMORY_GOAL_MB = 300
/** Lines a second on a core. */
const LINES_GOAL = 50_000
/** Lines in one request, and requests. */
const AT_ONCE = 5000
const REQUESTS = 40
const BEGUN = 1_760_000_000_000

export async function benchElsewhere(quick: boolean): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'vornak-bench-'))
  await benchImport(folder, quick ? QUICK_ROWS : ROWS)
  benchTold(folder)
  rmSync(folder, { recursive: true, force: true })
}

async function benchImport(folder: string, rows: number): Promise<void> {
  const path = join(folder, 'rows.csv')
  await writeRows(path, rows)
  let mostBytes = 0
  const watching = () => (mostBytes = Math.max(mostBytes, process.memoryUsage.rss()))
  const reading = recognise(await beginningOf(path)).reading
  const file = { path, file: 'rows', name: 'rows.csv', reading, place: 'here', shiftMs: 0 }
  const began = performance.now()
  const { summary } = await mergeResults(
    {
      files: [file],
      name: 'rows',
      unnamedDoubles: 'keep',
      objectives: ['p95 at most 1 s'],
      path: join(folder, 'run.db'),
      targetPath: join(folder, 'target.db'),
    },
    BEGUN,
    watching,
  )
  const tookMs = performance.now() - began
  watching()
  if (summary.whole.started !== rows) throw new Error(`${summary.whole.started} of ${rows} rows were merged`)
  const parsing = performance.now()
  if (Papa.parse(readFileSync(path, 'utf8'), { delimiter: ',' }).data.length < rows) throw new Error('rows were not parsed')
  const parsedMs = performance.now() - parsing
  const about = `${rows} rows of CSV, ${STEPS} steps`
  tell({ bench: 'elsewhere', case: `${about}, a run, against parsing alone`, value: tookMs, unit: 'ms', reference: parsedMs, ratio: tookMs / parsedMs, goal: `value <= ${IMPORT_GOAL_MS} ms` })
  const fileBytes = statSync(path).size
  tell({ bench: 'elsewhere', case: `${about}: memory of the whole process, against the file`, value: mostBytes / 1e6, unit: 'MB', reference: fileBytes / 1e6, ratio: mostBytes / fileBytes, goal: `value <= ${MEMORY_GOAL_MB} MB` })
}

function benchTold(folder: string): void {
  const document = claimedDocument({
    name: 'told', steps: [], lengthS: 60, peakUsers: 0, goesOn: true,
    senders: [{ name: 'here', place: 'here', how: 'stream' }],
  })
  const merge = new RunMerge(join(folder, 'told.db'), document, [{ machineId: '', name: 'here', location: 0 }])
  const live = new ToldLive(merge, BEGUN, 1)
  const random = seededRandom(1)
  const texts = Array.from({ length: REQUESTS }, (_, r) =>
    Array.from({ length: AT_ONCE }, (_, i) =>
      JSON.stringify({
        step: `step ${i % STEPS}`, duration: Math.round(random() * 900_000) / 1000, ok: i % 50 > 0, status: 200, bytes: 700,
        time: BEGUN + r * 500 + Math.floor(random() * 500), user: `u${i % USERS}`,
      })).join('\n'))
  const began = performance.now()
  for (const [r, text] of texts.entries()) {
    const receivedAt = BEGUN + (r + 1) * 500
    live.take({ sender: 0, bytes: new TextEncoder().encode(text), startAt: BEGUN, receivedAt, batch: r + 1 })
    live.cut(receivedAt)
    merge.flush()
  }
  const tookMs = performance.now() - began
  if (merge.ledger(new Map()).merged.started !== REQUESTS * AT_ONCE) throw new Error('lines were lost')
  merge.close()
  const parsing = performance.now()
  for (const text of texts) for (const line of text.split('\n')) JSON.parse(line)
  const parsedMs = performance.now() - parsing
  const perS = (ms: number) => (REQUESTS * AT_ONCE) / (ms / 1000)
  tell({ bench: 'elsewhere', case: `lines told live, ${AT_ONCE} at once, read, merged and written down, against parsing alone`, value: perS(tookMs), unit: 'lines/s', reference: perS(parsedMs), ratio: perS(tookMs) / perS(parsedMs), goal: `value >= ${LINES_GOAL} lines/s` })
}

async function writeRows(path: string, rows: number): Promise<void> {
  const random = seededRandom(7)
  const file = createWriteStream(path)
  let text = 'time,step,duration,ok,status,bytes,user\n'
  for (let i = 0; i < rows; i++) {
    const isBad = i % 50 === 0
    text += `${BEGUN + i},step ${i % STEPS},${Math.round(20 + random() * 400)},${isBad ? 'false,500' : 'true,200'},${500 + (i % 100)},u${i % USERS}\n`
    if (text.length < 1e6) continue
    if (!file.write(text)) await once(file, 'drain')
    text = ''
  }
  file.end(text)
  await once(file, 'close')
}
