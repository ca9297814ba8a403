/**
 * Tests that could not be decided on this computer now: one line each, read by `npm test`, which counts them with
 * neither.
 */
import { appendFileSync } from 'node:fs'
import { join } from 'node:path'

export function tellUndecided(name: string, why: string): void {
  appendFileSync(join('dist', 'undecided-tests.txt'), `“${name}”: ${why.split('\n', 1)[0]}\n`)
}
