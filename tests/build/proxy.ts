/**
 * A proxy that wants a name and a password (RFC 7617): tunnels (RFC 9110, section 9.3.6), and fetches what it is asked
 * for in absolute form.
 */
import { createServer, request as requestHttp } from 'node:http'
import { connect, type AddressInfo, type Socket } from 'node:net'

export interface TestProxy {
  port: number
  /** Method and address of everything it was asked for. */ asked: string[]
  close(): void
}

/** @param credentials `user:password` */
export async function testProxy(credentials: string): Promise<TestProxy> {
  const asked: string[] = []
  const sockets = new Set<Socket>()
  const known = (header: string | undefined) => header === `Basic ${Buffer.from(credentials).toString('base64')}`
  const server = createServer((request, response) => {
    asked.push(`${request.method} ${request.url}`)
    if (!known(request.headers['proxy-authorization'])) return void response.writeHead(407).end()
    requestHttp(request.url!, (answer) => {
      response.writeHead(answer.statusCode!, answer.headers)
      answer.pipe(response)
    }).end()
  })
  server.on('connect', (request, socket: Socket, head: Buffer) => {
    sockets.add(socket)
    socket.on('error', () => {
      /* it is gone */
    })
    asked.push(`CONNECT ${request.url}`)
    if (!known(request.headers['proxy-authorization']))
      return socket.end('HTTP/1.1 407 Proxy Authentication Required\r\n\r\n')
    const [host, port] = request.url!.split(':')
    const onward = connect(Number(port), host, () => {
      socket.write('HTTP/1.1 200 Connection established\r\n\r\n')
      onward.write(head)
      socket.pipe(onward).pipe(socket)
    })
    onward.on('error', () => socket.end('HTTP/1.1 502 Bad Gateway\r\n\r\n'))
  })
  await new Promise<void>(ready => server.listen(0, '127.0.0.1', ready))
  return {
    port: (server.address() as AddressInfo).port,
    asked,
    close() {
      for (const socket of sockets) socket.destroy()
      server.close()
    },
  }
}
