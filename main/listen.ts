/** Takes a port, or says why not. */
import type { Server } from 'node:net'

/** The port is taken, or the process may not listen there. */
export class CannotListen extends Error {
  override name = 'CannotListen'
}

/** @param setting where another port can be chosen @throws CannotListen */
export function listen(server: Server, host: string, port: number, setting: string): Promise<void> {
  return new Promise((resolve, reject) => {
    server.once('error', (error: NodeJS.ErrnoException) => {
      reject(
        new CannotListen(
          error.code === 'EADDRINUSE'
            ? `Port ${port} is in use: end the program that holds it, or choose another with ${setting}.`
            : error.message,
        ),
      )
    })
    server.listen(port, host, resolve)
  })
}
