/** A folder of a test's own, gone when the test file is over. */
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

export function ownFolder(): string {
  const folder = mkdtempSync(join(tmpdir(), 'vornak-test-'))
  afterAll(() => rmSync(folder, { recursive: true, force: true }))
  return folder
}
