/**
 * Runs the portal alone: `node dist/enrolment-portal.mjs [settings.json]`. Settings are the fields of PortalSettings;
 * PORT chooses the port (default 4710). Bound to 127.0.0.1.
 */
import { readFileSync } from 'node:fs'
import { createPortal, DEFAULT_SETTINGS, type PortalSettings } from './portal'

const file = process.argv[2]
const settings: PortalSettings = {
  ...DEFAULT_SETTINGS,
  // Written by the tests and the demo, which say only what differs.
  ...(file ? (JSON.parse(readFileSync(file, 'utf8')) as Partial<PortalSettings>) : {}),
}
const port = Number(process.env.PORT ?? 4710)
const { server } = createPortal(settings)
server.on('error', (error: NodeJS.ErrnoException) => {
  console.error(
    error.code === 'EADDRINUSE'
      ? `Port ${port} is in use: end the program that holds it, or choose another with PORT.`
      : error.message,
  )
  process.exit(1)
})
server.listen(port, '127.0.0.1', () =>
  console.log(`Enrolment portal on http://127.0.0.1:${port} · ${settings.replicas} × ${settings.workers} workers`),
)
for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => process.exit(0))
