/** A port that nobody listens at now. */
import { createServer, type AddressInfo } from 'node:net'

export function freePort(): Promise<number> {
  return new Promise((resolve) => {
    const server = createServer()
    server.listen(0, '127.0.0.1', () => {
      // It listens on a port.
      const { port } = server.address() as AddressInfo
      server.close(() => resolve(port))
    })
  })
}
