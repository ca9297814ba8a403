/** Puts the process together: coordinator, HTTP server with Nuxt's listener mounted, sockets. */
import { createServer, type IncomingMessage, type RequestListener, type Server, type ServerResponse } from 'node:http'
import { Coordinator, type CoordinatorOptions } from '../control/coordinator'
import { realClock } from '../control/clock'
import { provideCoordinator } from '../control/meeting-place'
import { guardBody, guardHost, guardOrigin, type Refusal } from './guards'
import type { Settings } from './settings'
import { openSockets } from './sockets'

export interface Serving {
  coordinator: Coordinator
  server: Server
  close(): Promise<void>
}

/** The port is taken, or the process may not listen there. */
export class CannotListen extends Error {
  override name = 'CannotListen'
}

/**
 * @param pages Nuxt's listener: pages and API routes
 * @param programs files of the programs it starts
 */
export async function serve(
  settings: Settings,
  pages: RequestListener,
  programs: CoordinatorOptions['programs'],
  options: Partial<CoordinatorOptions> = {},
): Promise<Serving> {
  const { host, port } = settings
  const names = new Set([
    `${host}:${port}`,
    `localhost:${port}`,
    `127.0.0.1:${port}`,
    ...(settings.publicAddress ? [new URL(settings.publicAddress).host] : []),
  ])
  const origins = new Set([...[...names].flatMap(n => [`http://${n}`, `https://${n}`]), ...settings.allowedOrigins])
  const guard = (request: IncomingMessage) => guardHost(request, names) ?? guardOrigin(request, origins)
  const server = createServer((request, response) => {
    const refusal = guard(request) ?? guardBody(request)
    if (refusal) return refuse(response, refusal)
    for (const [name, value] of SECURITY_HEADERS) response.setHeader(name, value)
    pages(request, response)
  })
  await listen(server, host, port)
  const coordinator = new Coordinator({
    dataFolder: settings.dataFolder,
    clock: realClock,
    providers: [],
    ...(settings.cloudAddress
      ? { firstAccount: { id: 'nimbral', name: 'Nimbral', address: settings.cloudAddress, key: settings.cloudKey } }
      : {}),
    controllerAddress: () => settings.publicAddress ?? `http://${host}:${port}`,
    ...(settings.stageBounds ? { stageBounds: settings.stageBounds } : {}),
    programs,
    keyFile: settings.keyFile,
    dailyBudget: settings.dailyBudget,
    selfTestS: settings.selfTestS,
    onFatal: (error) => {
      throw error
    },
    ...options,
  })
  provideCoordinator(coordinator)
  coordinator.hosts.tryUnfit()
  const sockets = openSockets(server, coordinator, guard)
  return {
    coordinator,
    server,
    async close() {
      sockets.close()
      server.closeAllConnections()
      await new Promise(closed => server.close(closed))
      await coordinator.shutDown()
    },
  }
}

/** Nothing here may be framed, guessed at, or told elsewhere. */
const SECURITY_HEADERS = [
  ['x-content-type-options', 'nosniff'],
  ['x-frame-options', 'DENY'],
  ['referrer-policy', 'same-origin'],
] as const

function refuse(response: ServerResponse, { status, code, sentence, remedy }: Refusal): void {
  response
    .writeHead(status, { 'content-type': 'application/json', connection: 'close' })
    .end(JSON.stringify({ code, sentence, remedy }))
}

function listen(server: Server, host: string, port: number): Promise<void> {
  return new Promise((resolve, reject) => {
    server.once('error', (error: NodeJS.ErrnoException) => {
      reject(
        new CannotListen(
          error.code === 'EADDRINUSE'
            ? `Port ${port} is in use: end the program that holds it, or choose another with VORNAK_PORT.`
            : error.message,
        ),
      )
    })
    server.listen(port, host, resolve)
  })
}
