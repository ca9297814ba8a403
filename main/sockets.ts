/** The sockets: generators on one path, browsers' live feed on another. Plain `ws`; both guarded like every request. */
import type { IncomingMessage, Server } from 'node:http'
import type { Duplex } from 'node:stream'
import { WebSocketServer, type WebSocket } from 'ws'
import type { LiveMessage } from '../api/views'
import type { Coordinator } from '../control/coordinator'
import { LINK_PATH, MAX_MESSAGE_BYTES } from '../protocol/version'
import type { Refusal } from './guards'

export const LIVE_PATH = '/live'
/** A browser asks for at most this, bytes. */
const MOST_ASKED_BYTES = 1024
/** A browser that does not keep up is let go and comes back for the whole, bytes. */
const MOST_BUFFERED = 8 * 1024 * 1024

export function openSockets(
  server: Server,
  coordinator: Coordinator,
  guard: (request: IncomingMessage) => Refusal | undefined,
): { close(): void } {
  const generators = new WebSocketServer({ noServer: true, maxPayload: MAX_MESSAGE_BYTES, perMessageDeflate: false })
  const browsers = new WebSocketServer({ noServer: true, maxPayload: MOST_ASKED_BYTES, perMessageDeflate: false })
  /** Run each browser watches. */
  const watching = new Map<WebSocket, number | undefined>()

  server.on('upgrade', (request, socket: Duplex, head) => {
    const path = (request.url ?? '').split('?')[0]
    const pool = path === LINK_PATH ? generators : path === LIVE_PATH ? browsers : undefined
    const refusal = guard(request)
    if (refusal || !pool) {
      socket.end(
        `HTTP/1.1 ${refusal?.status ?? 404} ${refusal?.code ?? 'not found'}\r\nconnection: close\r\ncontent-length: 0\r\n\r\n`,
      )
      return
    }
    pool.handleUpgrade(request, socket, head, ws => pool.emit('connection', ws, request))
  })

  generators.on('connection', (socket, request) => {
    const link = coordinator.acceptGenerator(
      { send: data => socket.send(data), close: () => socket.close(), drop: () => socket.terminate() },
      request.socket.remoteAddress?.replace(/^::ffff:/, ''),
    )
    socket.on('message', (data: Buffer, binary) => link.message(binary ? data : data.toString()))
    socket.on('close', () => link.closed())
    socket.on('error', () => socket.terminate())
  })

  browsers.on('connection', (socket) => {
    watching.set(socket, undefined)
    socket.on('message', (data: Buffer) => {
      const runId = watchedRun(data.toString())
      if (runId !== undefined) watching.set(socket, runId)
    })
    socket.on('close', () => watching.delete(socket))
    socket.on('error', () => socket.terminate())
    socket.send(JSON.stringify({ kind: 'meter', meter: coordinator.meter() } satisfies LiveMessage))
  })

  const tell = (message: LiveMessage) => {
    if (watching.size === 0) return
    const json = JSON.stringify(message)
    for (const [socket, runId] of watching) {
      if (message.kind === 'seconds' && message.runId !== runId) continue
      if (socket.bufferedAmount > MOST_BUFFERED) socket.terminate()
      else socket.send(json)
    }
  }
  coordinator.live.on('live', tell)

  return {
    close() {
      coordinator.live.off('live', tell)
      for (const socket of [...watching.keys(), ...generators.clients]) socket.terminate()
    },
  }
}

function watchedRun(json: string): number | undefined {
  try {
    const { watch } = JSON.parse(json) as { watch?: unknown }
    return Number.isInteger(watch) ? (watch as number) : undefined
  }
  catch {
    return undefined
  }
}
