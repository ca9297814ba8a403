/** The live feed of browsers: plain `ws`, guarded like every request. */
import type { IncomingMessage, Server } from 'node:http'
import type { Duplex } from 'node:stream'
import { WebSocketServer, type WebSocket } from 'ws'
import { refusalOf, type Permission } from '../api/roles'
import type { LiveMessage } from '../api/views'
import type { Coordinator } from '../control/coordinator'
import type { Caller } from '../control/people/caller'
import type { TurnedAway } from './guards'
import { objectOf } from '../core/values/untyped'

const LIVE_PATH = '/live'

/** Whom each message of the live feed is for. */
const LIVE: Readonly<Record<LiveMessage['kind'], Permission>> = {
  meter: { role: 'viewer' },
  run: { role: 'viewer' },
  fleet: { role: 'viewer' },
  calibrations: { role: 'viewer' },
  dispatches: { role: 'operator' },
  resultRows: { role: 'operator' },
  seconds: { role: 'viewer' },
}
/** Those who may see something of it. */
const WATCHING: Permission = { role: 'viewer' }
/** A browser asks for at most this, bytes. */
const MOST_ASKED_BYTES = 1024
/** A browser that does not keep up is let go and comes back for the whole, bytes. */
const MOST_BUFFERED = 8 * 1024 * 1024

export function openLiveFeed(
  server: Server,
  coordinator: Coordinator,
  guard: (request: IncomingMessage) => TurnedAway | undefined,
): { close(): void } {
  const browsers = new WebSocketServer({ noServer: true, maxPayload: MOST_ASKED_BYTES, perMessageDeflate: false })
  /** Whose each browser is, and the run it watches. */
  const watching = new Map<WebSocket, { caller: Caller, runId?: number }>()
  const callerOf = ({ headers: { cookie, authorization } }: IncomingMessage) =>
    coordinator.people.callerOf({ cookie, authorization })

  server.on('upgrade', (request, socket: Duplex, head) => {
    const path = (request.url ?? '').split('?')[0]
    const isLive = path === LIVE_PATH
    const refusal = guard(request)
    const isUnknown = isLive && !refusal && refusalOf(WATCHING, callerOf(request)) !== undefined
    if (refusal || !isLive || isUnknown) {
      const status = isUnknown ? '401 sign-in' : `${refusal?.status ?? 404} ${refusal?.code ?? 'not found'}`
      socket.end(
        `HTTP/1.1 ${status}\r\nconnection: close\r\ncontent-length: 0\r\n\r\n`,
      )
      return
    }
    browsers.handleUpgrade(request, socket, head, ws => browsers.emit('connection', ws, request))
  })

  browsers.on('connection', (socket, request) => {
    const caller = callerOf(request)
    if (!caller) return socket.terminate()
    watching.set(socket, { caller })
    socket.on('message', (data: Buffer) => {
      const runId = watchedRun(data.toString())
      if (runId !== undefined) watching.set(socket, { caller, runId })
    })
    socket.on('close', () => watching.delete(socket))
    socket.on('error', () => socket.terminate())
    socket.send(JSON.stringify({ kind: 'meter', meter: coordinator.meter() } satisfies LiveMessage))
  })

  const tell = (message: LiveMessage) => {
    if (watching.size === 0) return
    const json = JSON.stringify(message)
    for (const [socket, { caller, runId }] of watching) {
      if (message.kind === 'seconds' && message.runId !== runId) continue
      if (refusalOf(LIVE[message.kind], caller)) continue
      if (socket.bufferedAmount > MOST_BUFFERED) socket.terminate()
      else socket.send(json)
    }
  }
  coordinator.news.live.on('live', tell)
  // Whose session ends hears no more; nor does anyone who was let in because nobody could sign in.
  coordinator.people.onLeave = (isGone) => {
    for (const [socket, { caller }] of watching) if (isGone(caller)) socket.terminate()
  }

  return {
    close() {
      coordinator.news.live.off('live', tell)
      for (const socket of watching.keys()) socket.terminate()
    },
  }
}

function watchedRun(json: string): number | undefined {
  try {
    const { watch } = objectOf(JSON.parse(json))
    return typeof watch === 'number' && Number.isInteger(watch) ? watch : undefined
  }
  catch {
    return undefined
  }
}
