/**
 * Ways a generator's words travel to its controller: out through a WebSocket, or over whatever stream comes to its own
 * socket file.
 */
import { createServer, type Socket } from 'node:net'
import { HttpsProxyAgent } from 'https-proxy-agent'
import WebSocket from 'ws'
import { framed, STREAM_MARK, StreamReader } from '../../protocol/stream'
import { LINK_PATH, MAX_MESSAGE_BYTES } from '../../protocol/version'

/** A connection as the link needs it. */
export interface Wire {
  send(data: string | Uint8Array): void
  /** Bytes it holds back. */
  buffered(): number
  close(): void
  /** Ends it at once: nobody answers at its other end. */
  drop(): void
}

export interface WireListener {
  onText(wire: Wire, text: string): void
  onClose(wire: Wire): void
}

/** Opens one connection, now or when the other side comes; a new one after each that closed. */
export type Transport = (listener: WireListener) => void

/** A controller that does not greet within this is given up, ms. */
const GREETING_MS = 5000

/** @param proxy address of a proxy to go out through, with user and password where it asks for them */
export function webSocketTransport(controller: string, proxy?: string): Transport {
  const address = controller.replace(/^http/, 'ws').replace(/\/+$/, '') + LINK_PATH
  return ({ onText, onClose }) => {
    const socket = new WebSocket(address, {
      maxPayload: MAX_MESSAGE_BYTES,
      handshakeTimeout: GREETING_MS,
      perMessageDeflate: false,
      ...(proxy ? { agent: new HttpsProxyAgent(proxy) } : {}),
    })
    const wire: Wire = {
      send: data => socket.send(data),
      buffered: () => socket.bufferedAmount,
      close: () => socket.close(),
      drop: () => socket.terminate(),
    }
    // Open is not enough: who does not greet is not a controller, or a line that carries nothing.
    const patience = setTimeout(() => socket.terminate(), 2 * GREETING_MS)
    socket.on('message', (data: Buffer, binary) => {
      clearTimeout(patience)
      if (!binary) onText(wire, data.toString())
    })
    socket.on('error', () => {
      /* close follows */
    })
    socket.on('close', () => {
      clearTimeout(patience)
      onClose(wire)
    })
  }
}

/**
 * Waits at a socket file that only its owner may use. A relay, started by the controller over SSH, connects its own
 * standard input and output to it; when that connection breaks, the generator goes on, and the next relay takes up the
 * conversation.
 */
export function socketFileTransport(path: string): Transport {
  let listener: WireListener | undefined
  let current: Socket | undefined
  const server = createServer((socket) => {
    // The newer is alive.
    current?.destroy()
    current = socket
    const taken = listener
    if (!taken) return socket.destroy()
    const wire: Wire = {
      send: data => void socket.write(framed(data)),
      buffered: () => socket.writableLength,
      close: () => socket.end(),
      drop: () => socket.destroy(),
    }
    const reader = new StreamReader((message) => {
      if (typeof message === 'string') taken.onText(wire, message)
    }, false)
    socket.write(STREAM_MARK)
    socket.on('data', (chunk: Buffer) => {
      try {
        reader.take(chunk)
      }
      catch {
        socket.destroy()
      }
    })
    socket.on('error', () => {
      /* close follows */
    })
    socket.on('close', () => {
      if (current === socket) taken.onClose(wire)
    })
  })
  server.listen({ path, readableAll: false, writableAll: false })
  return (next) => {
    listener = next
  }
}
