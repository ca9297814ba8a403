/** The process `vornak`: web app, API, live feed, socket for generators, coordinator. */
import { fileURLToPath } from 'node:url'
import type { RequestListener } from 'node:http'
import { NewerDatabase } from '../control/store/open'
import { programsIn } from './programs'
import { CannotListen, serve } from './serve'
import { readSettings } from './settings'

async function main(): Promise<void> {
  const settings = readSettings(process.env)
  const nuxt = new URL('../.output/server/index.mjs', import.meta.url).href
  const { listener } = (await import(nuxt)) as { listener: RequestListener }
  const serving = await serve(settings, listener, programsIn(fileURLToPath(new URL('.', import.meta.url))))
  console.log(`Vornak on http://${settings.host}:${settings.port}`)
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
    error instanceof NewerDatabase ||
    (error instanceof Error && error.message.startsWith('VORNAK_'))
  console.error(known ? error.message : error)
  process.exit(1)
})
