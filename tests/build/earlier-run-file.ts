/** Run files as releases before wrote them. */
import { KeptFrames } from '../../control/ingest/kept-frames'
import { openRunFile } from '../../control/store/open'
import { openFrame } from '../../protocol/frame'

/** Makes a file what it was of a release that had a row for each frame, and knew health by frames alone. */
export function asEarlier(path: string): void {
  const store = openRunFile(path)
  const put = store.prepare(`
    INSERT INTO frames (generator, incarnation, worker, sequence, second, bytes)
    VALUES (?, ?, ?, ?, ?, ?)
  `)
  const rows: [number, Uint8Array][] = []
  new KeptFrames(store).each(0, 1e9, (g, bytes) => rows.push([g, Uint8Array.from(bytes)]))
  for (const [g, bytes] of rows) {
    const { incarnation, worker, sequence, second } = openFrame(bytes).top
    put.run(g, incarnation, worker, sequence, second, bytes)
  }
  store.exec('DELETE FROM chunks; DELETE FROM machine_minutes; DELETE FROM facts WHERE name = \'merged\'')
  store.close()
}
