/**
 * The generators' door: their link and the program they run, over TLS, and nothing else. Those who come in have the
 * token of one machine; what they know the controller by is its key.
 */
import { createServer, type Server } from 'node:https'
import type { AddressInfo } from 'node:net'
import type { IncomingMessage, ServerResponse } from 'node:http'
import type { Duplex } from 'node:stream'
import { WebSocketServer, type WebSocket } from 'ws'
import type { Coordinator } from '../control/coordinator'
import { LINK_PATH, MAX_MESSAGE_BYTES } from '../protocol/version'
import { listen } from './listen'
import type { Settings } from './settings'

const PROGRAM_PATH = '/generator.mjs'

/** A certificate is renewed this often, ms; one made here is good for many times that. */
const RENEW_MS = 86_400_000
const RENEWING = 'The certificate of the generators’ door could not be renewed'

/** Who is behind it. */
type Behind = Pick<Coordinator, 'acceptGenerator' | 'doorCertificate' | 'generatorProgram' | 'faults'>

export interface GeneratorsDoor {
  /** Where it listens. */
  port: number
  /** Lets generators in. */
  open(coordinator: Behind): Promise<void>
  close(): void
}

/** Takes the port; nobody comes in before it is opened. @throws CannotListen */
export async function generatorsDoor({ host, port }: Settings['generators']): Promise<GeneratorsDoor> {
  const server = createServer({ minVersion: 'TLSv1.2', maxHeaderSize: 8 * 1024 })
  await listen(server, host, port, 'VORNAK_GENERATORS_PORT')
  const links = new WebSocketServer({ noServer: true, maxPayload: MAX_MESSAGE_BYTES, perMessageDeflate: false })
  let renewing: NodeJS.Timeout | undefined
  return {
    // It listens on a port.
    port: (server.address() as AddressInfo).port,
    async open(coordinator) {
      await showCertificate(server, coordinator)
      renewing = setInterval(
        () =>
          void showCertificate(server, coordinator).then(
            () => coordinator.faults.settle(RENEWING),
            (error: unknown) => coordinator.faults.tell(RENEWING, error),
          ),
        RENEW_MS,
      )
      renewing.unref()
      server.on('request', (request, response) => answer(coordinator, request, response))
      server.on('upgrade', (request, socket: Duplex, head) => {
        if (pathOf(request) !== LINK_PATH) return void socket.end('HTTP/1.1 404 Not Found\r\nconnection: close\r\n\r\n')
        links.handleUpgrade(request, socket, head, ws => speakWith(coordinator, ws, request))
      })
    },
    close() {
      clearInterval(renewing)
      for (const socket of links.clients) socket.terminate()
      server.closeAllConnections()
      server.close()
    },
  }
}

/** While its key cannot be unsealed it shows none, and every connection fails. */
async function showCertificate(server: Server, coordinator: Behind): Promise<void> {
  const certificate = await coordinator.doorCertificate()
  if (certificate) server.setSecureContext({ ...certificate, minVersion: 'TLSv1.2' })
}

const pathOf = ({ url = '' }: IncomingMessage): string => url.split('?')[0]!

function answer(coordinator: Behind, request: IncomingMessage, response: ServerResponse): void {
  if (request.method !== 'GET' || pathOf(request) !== PROGRAM_PATH) return void response.writeHead(404).end()
  const program = coordinator.generatorProgram()
  response
    .writeHead(200, {
      'content-type': 'text/javascript; charset=utf-8',
      'content-length': program.length,
      'x-content-type-options': 'nosniff',
    })
    .end(program)
}

/** A generator speaks with the coordinator. */
export function speakWith(coordinator: Behind, socket: WebSocket, request: IncomingMessage): void {
  const link = coordinator.acceptGenerator(
    { send: data => socket.send(data), close: () => socket.close(), drop: () => socket.terminate() },
    request.socket.remoteAddress?.replace(/^::ffff:/, ''),
  )
  socket.on('message', (data: Buffer, binary) => link.message(binary ? data : data.toString()))
  socket.on('close', () => link.closed())
  socket.on('error', () => socket.terminate())
}
