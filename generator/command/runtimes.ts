/** Asks the programs a command journey needs for their versions. */
import { execFile } from 'node:child_process'
import type { Runtime } from '../../core/journey/journey'
import { codeOf } from '../../core/values/thrown'

export interface FoundRuntime {
  program: string
  ok: boolean
  said: string
}

const PATIENCE_MS = 8000

export function findRuntime({ program, arguments: args }: Runtime): Promise<FoundRuntime> {
  return new Promise((resolve) => {
    execFile(program, args, { timeout: PATIENCE_MS, maxBuffer: 64 * 1024 }, (error, stdout, stderr) => {
      const said = (stdout || stderr).trim().split('\n')[0]?.slice(0, 120) ?? ''
      if (!error) return resolve({ program, ok: true, said })
      resolve({
        program,
        ok: false,
        said:
          codeOf(error) === 'ENOENT'
            ? 'is not installed'
            : said || error.message.split('\n')[0]!.slice(0, 120),
      })
    })
  })
}
