/**
 * `npm run new-key [-- forget]`: what to do when the key file is lost for good. Without the word it says what would
 * have to be entered again.
 */
import { forgetSealed, whatIsSealed, type Forgotten } from '../control/store/forget-sealed'
import { runToEnd } from './said'
import { entriesIn } from '../core/values/written-out'

const WORDS: Readonly<Record<keyof Forgotten, string>> = {
  accounts: 'Accounts at providers',
  secrets: 'Secrets of targets',
  sshKeys: 'SSH keys',
  hooks: 'Web hooks',
  machines: 'Machines that are out, and cannot be released from here any more: look for them at their providers',
}

function main(): void {
  // One that is set to nothing is not set: no key would be found there, and all would be forgotten.
  const folder = process.env.VORNAK_DATA || '.data'
  const keyFile = process.env.VORNAK_KEY_FILE || `${folder.replace(/\/+$/, '')}.key`
  const isMeant = process.argv[2] === 'forget'
  const all = isMeant ? forgetSealed(folder, keyFile, Date.now()) : whatIsSealed(folder)
  for (const [kind, words] of entriesIn(WORDS))
    if (all[kind].length > 0) console.log(`${words}: ${all[kind].join(', ')}.`)
  console.log('The password of the mail server, and where figures are pushed to, if they were set. Generators that enrol by themselves have to be invited again.')
  console.log(
    isMeant
      ? 'All of this is forgotten, and has to be entered again. Plans, journeys, runs, answers and people are as they were. Start Vornak: it makes a new key.'
      : `All of this would have to be entered again. If ${keyFile} is lost for good, say: npm run new-key -- forget`,
  )
}

runToEnd(main)
