/** The process `vornak`: web app, API, live feed, socket for generators, coordinator. */
import { fileURLToPath } from 'node:url'
import type { RequestListener } from 'node:http'
import { FolderHeld } from '../control/store/folder-lock'
import { BrokenDatabase, NewerDatabase } from '../control/store/open'
import { programsIn } from './programs'
import { OpenToOthers } from './exposure'
import { CannotListen } from './listen'
import { serve } from './serve'
import { readSettings } from './settings'

async function main(): Promise<void> {
  const settings = readSettings(process.env)
  const nuxt = new URL('../.output/server/index.mjs', import.meta.url).href
  // What Nuxt builds exports its listener.
  const { listener } = (await import(nuxt)) as { listener: RequestListener }
  const serving = await serve(settings, listener, programsIn(fileURLToPath(new URL('.', import.meta.url))))
  console.log(`Vornak on ${settings.tls ? 'https' : 'http'}://${settings.host}:${settings.port}`)
  // Every promise is caught where it is made. Should one not be, a run that many machines are out for goes on.
  process.on('unhandledRejection', (fault) => {
    serving.coordinator.faults.tell('Something failed that nobody took care of; please tell of it', fault)
  })
  let closing = false
  for (const signal of ['SIGINT', 'SIGTERM'] as const)
    process.on(signal, () => {
      if (closing) return
      closing = true
      void serving.close().then(() => process.exit(0))
    })
}

main().catch((error: unknown) => {
  const known =
    error instanceof CannotListen ||
    error instanceof OpenToOthers ||
    error instanceof NewerDatabase ||
    error instanceof BrokenDatabase ||
    error instanceof FolderHeld ||
    (error instanceof Error && error.message.startsWith('VORNAK_'))
  console.error(known ? error.message : error)
  process.exit(1)
})
