/** A folder of a test's own, gone when the test file is over. */
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

export function ownFolder(): string {
  const folder = mkdtempSync(join(tmpdir(), 'vornak-test-'))
  afterAll(() => {
    try {
      rmSync(folder, { recursive: true, force: true, maxRetries: 10, retryDelay: 100 })
    }
    catch {
      // A process that a later hook ends writes to it still: it is left to the system, which tidies up.
    }
  })
  return folder
}
