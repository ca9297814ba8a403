/**
 * Ways a generator's words travel to its controller: out through a WebSocket, or over whatever stream comes to its own
 * socket file.
 */
import { createServer, type Socket } from 'node:net'
import type { Agent } from 'node:http'
import type { TLSSocket } from 'node:tls'
import { HttpsProxyAgent } from 'https-proxy-agent'
import WebSocket from 'ws'
import { heldToPin, PINNED, PinnedAgent } from '../../protocol/pin'
import { framed, STREAM_MARK, StreamReader } from '../../protocol/stream'
import { LINK_PATH, MAX_MESSAGE_BYTES } from '../../protocol/version'

/** A connection as the link needs it. */
export interface ControllerWire {
  send(data: string | Uint8Array): void
  /** Bytes it holds back. */
  buffered(): number
  close(): void
  /** Ends it at once: nobody answers at its other end. */
  drop(): void
}

export interface ControllerWireListener {
  onText(wire: ControllerWire, text: string): void
  onClose(wire: ControllerWire): void
}

/** Opens one connection, now or when the other side comes; a new one after each that closed. */
export type Transport = (listener: ControllerWireListener) => void

/** A controller that does not greet within this is given up, ms. */
const GREETING_MS = 5000

export interface WayToController {
  /** Address of a proxy to go out through, with user and password where it asks for them. */
  proxy?: string | undefined
  /** The controller's key; left out: its certificate is held against the authorities. */
  pin?: string | undefined
  /** Told why a connection could not be made. */
  onFault?: (error: Error) => void
}

export function webSocketTransport(controller: string, { proxy, pin, onFault }: WayToController = {}): Transport {
  const address = controller.replace(/^http/, 'ws').replace(/\/+$/, '') + LINK_PATH
  const agent = agentFor(proxy, pin)
  return ({ onText, onClose }) => {
    const socket = new WebSocket(address, {
      maxPayload: MAX_MESSAGE_BYTES,
      handshakeTimeout: GREETING_MS,
      perMessageDeflate: false,
      ...(agent ? { agent } : {}),
    })
    const wire: ControllerWire = {
      send: data => socket.send(data),
      buffered: () => socket.bufferedAmount,
      close: () => socket.close(),
      drop: () => socket.terminate(),
    }
    // Open is not enough: what does not greet is not a controller, or a line that carries nothing.
    const patience = setTimeout(() => socket.terminate(), 2 * GREETING_MS)
    socket.on('message', (data: Buffer, binary) => {
      clearTimeout(patience)
      if (!binary) onText(wire, data.toString())
    })
    // Close follows.
    socket.on('error', error => onFault?.(error))
    socket.on('close', () => {
      clearTimeout(patience)
      onClose(wire)
    })
  }
}

function agentFor(proxy?: string, pin?: string): Agent | undefined {
  if (proxy) return pin ? new PinnedProxyAgent(proxy, pin) : new HttpsProxyAgent(proxy)
  return pin ? new PinnedAgent(pin) : undefined
}

/** Through a proxy, and there to one that has the pinned key alone. */
class PinnedProxyAgent extends HttpsProxyAgent<string> {
  constructor(
    proxy: string,
    private readonly pin: string,
  ) {
    super(proxy)
  }

  override async connect(...[request, options]: Parameters<HttpsProxyAgent<string>['connect']>) {
    // Options of TLS go through, though its types do not list them.
    const socket = await super.connect(request, { ...options, ...PINNED } as typeof options)
    // Only such a socket has that method.
    return 'getPeerX509Certificate' in socket ? heldToPin(socket as TLSSocket, this.pin) : socket
  }
}

/**
 * Waits at a socket file that only its owner may use. A relay, started by the controller over SSH, connects its own
 * standard input and output to it; when that connection breaks, the generator goes on, and the next relay takes up the
 * conversation.
 */
export function socketFileTransport(path: string): Transport {
  let listener: ControllerWireListener | undefined
  let current: Socket | undefined
  const server = createServer((socket) => {
    // The newer is alive.
    current?.destroy()
    current = socket
    const taken = listener
    if (!taken) return socket.destroy()
    const wire: ControllerWire = {
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
