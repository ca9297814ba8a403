/**
 * `npm run dev`: Vornak and the stand-ins as in the demo, and Nuxt's development server in front of them on port 3000,
 * so that pages reload as one edits.
 */
import { spawn } from 'node:child_process'
import { join } from 'node:path'
import { checkNode, installPackages, ROOT } from './ground.mjs'

checkNode()
await installPackages()
const vornak = 'http://127.0.0.1:4700'
const env = {
  ...process.env,
  NUXT_TELEMETRY_DISABLED: '1',
  NUXT_PUBLIC_LIVE: vornak,
  VORNAK_DEV_API: vornak,
  VORNAK_ORIGINS: 'http://localhost:3000,http://127.0.0.1:3000',
}
const children = [
  spawn(process.execPath, [join(ROOT, 'scripts/demo.mjs')], { cwd: ROOT, stdio: 'inherit', env }),
  spawn(join(ROOT, 'node_modules/.bin/nuxt'), ['dev', '--port', '3000', '--host', '127.0.0.1'], {
    cwd: ROOT,
    stdio: 'inherit',
    env,
  }),
]
for (const child of children) child.on('exit', () => end())
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, end)

let ending = false
function end() {
  if (ending) return
  ending = true
  let left = children.filter(c => c.exitCode === null && c.signalCode === null).length
  if (left === 0) process.exit(0)
  for (const child of children) {
    child.once('exit', () => {
      if (--left === 0) process.exit(0)
    })
    child.kill('SIGTERM')
  }
}
