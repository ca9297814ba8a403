/** `npm run person -- NAME`: makes a keeper, or gives one a new password, while no server runs on the folder. */
import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { createInterface } from 'node:readline/promises'
import { Writable } from 'node:stream'
import { realClock } from '../control/clock'
import { People } from '../control/people/people'
import { holdFolder } from '../control/store/folder-lock'
import { openStore } from '../control/store/open'
import { peopleStore } from '../control/store/people'
import { runToEnd } from './said'

async function main(): Promise<void> {
  const name = process.argv[2]?.trim()
  if (!name) throw new Error('Say whom: npm run person -- NAME')
  const folder = process.env.VORNAK_DATA ?? '.data'
  mkdirSync(folder, { recursive: true })
  const lock = holdFolder(folder)
  const store = openStore(join(folder, 'vornak.db'))
  try {
    const table = peopleStore(store)
    const people = new People(table, realClock)
    const password = await readHidden(`Password of ${name} (15 letters or more): `)
    const known = table.named(name)
    if (known) {
      await people.resetPassword(known.id, password)
      people.change(known.id, { role: 'keeper', isIn: true })
    }
    else {
      await people.add({ name, role: 'keeper', password })
    }
    console.log(known ? `${name} has a new password, and is a keeper.` : `${name} can sign in, and is a keeper.`)
  }
  finally {
    store.close()
    lock.release()
  }
}

/** A line of standard input; what is typed is not shown. */
async function readHidden(question: string): Promise<string> {
  const { stdin } = process
  if (stdin.isTTY) process.stderr.write(question)
  const nowhere = new Writable({ write: (_chunk, _encoding, done) => done() })
  const lines = createInterface({ input: stdin, output: nowhere, terminal: stdin.isTTY })
  for await (const line of lines) {
    lines.close()
    if (stdin.isTTY) process.stderr.write('\n')
    return line
  }
  return ''
}

runToEnd(main)
