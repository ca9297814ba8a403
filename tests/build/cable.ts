/**
 * A cable between generators and Vornak: forwards every byte, until it is cut; then nothing passes and nobody is told,
 * as when a switch on the way dies.
 */
import { connect, createServer, type AddressInfo, type Socket } from 'node:net'

export interface Cable {
  port: number
  /** What passes through the oldest connection, and through every new one, is lost from now on. */
  cut(): void
  /** New connections pass again; those that were cut end. */
  restore(): void
  close(): void
}

export async function cable(to: () => number): Promise<Cable> {
  const pairs: { near: Socket, far: Socket, dead: boolean }[] = []
  let isCut = false
  const server = createServer((near) => {
    const pair = { near, far: connect(to(), '127.0.0.1'), dead: isCut }
    pairs.push(pair)
    for (const [from, onward] of [
      [near, pair.far],
      [pair.far, near],
    ] as const) {
      from.on('data', (bytes: Buffer) => {
        if (!pair.dead) onward.write(bytes)
      })
      from.on('end', () => {
        if (!pair.dead) onward.end()
      })
      from.on('error', () => {
        if (!pair.dead) onward.destroy()
      })
      from.on('close', () => {
        if (!pair.dead) onward.destroy()
      })
    }
  })
  await new Promise<void>(ready => server.listen(0, '127.0.0.1', ready))
  return {
    port: (server.address() as AddressInfo).port,
    cut() {
      isCut = true
      const oldest = pairs.find(p => !p.near.destroyed && !p.far.destroyed)
      if (!oldest) throw new Error('no connection to cut')
      oldest.dead = true
    },
    restore() {
      isCut = false
      for (const { near, far, dead } of pairs) if (dead) for (const socket of [near, far]) socket.destroy()
    },
    close() {
      for (const { near, far } of pairs) for (const socket of [near, far]) socket.destroy()
      server.close()
    },
  }
}
