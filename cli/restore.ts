/**
 * `npm run restore -- FILE [go-on | begin-anew]`: brings a backup back into an empty folder. Which of both it is to be
 * is asked, where it is not said.
 */
import { existsSync } from 'node:fs'
import { createInterface } from 'node:readline/promises'
import { restore, type HowToRestore } from '../control/store/restore'
import { runToEnd } from './said'

const WAYS: Readonly<Record<string, HowToRestore>> = { 'go-on': 'goOn', 'begin-anew': 'beginAnew' }
const ASKED = `go-on: this is the same installation in another place; where it was, it must not start again.
begin-anew: this is another installation; machines of the old one are shown as strays, and can be released.`

async function main(): Promise<void> {
  const [, , file, said] = process.argv
  if (!file) throw new Error(`Say which: npm run restore -- FILE.tar.gz go-on (or begin-anew)\n${ASKED}`)
  const how = WAYS[said ?? (await ask())]
  if (!how) throw new Error(`Say go-on or begin-anew.\n${ASKED}`)
  const folder = process.env.VORNAK_DATA ?? '.data'
  const { installation, madeAt } = await restore(file, folder, how, Date.now())
  console.log(`${installation}, as it was at ${new Date(madeAt).toISOString()}, is in ${folder}.`)
  const keyFile = process.env.VORNAK_KEY_FILE ?? `${folder.replace(/\/+$/, '')}.key`
  if (!existsSync(keyFile))
    console.log(`Before you start it, put the key of its secrets back to ${keyFile}, or say with VORNAK_KEY_FILE where it is.`)
}

async function ask(): Promise<string> {
  if (!process.stdin.isTTY) return ''
  const lines = createInterface({ input: process.stdin, output: process.stderr })
  const answer = await lines.question(`${ASKED}\nWhich is it? `)
  lines.close()
  return answer.trim()
}

runToEnd(main)
