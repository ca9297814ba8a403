/** Ports of this computer, for scripts, the demo and tests: which is free, and who listens. */
const { randomInt } = require('node:crypto')
const { readFileSync } = require('node:fs')
const { connect, createServer } = require('node:net')

/**
 * Ports are chosen from these: above what services of a computer are known by, below what it gives to connections going
 * out (ip(7), ip_local_port_range), one of which could take a port before the program that it was meant for listens.
 */
const LOWEST = 20_000
const ABOVE = lowestGoingOut()
/** Nobody in this process is given one twice. */
const given = new Set()

/** @returns a port that nobody listens at now */
exports.freePort = async () => {
  for (;;) {
    const port = randomInt(LOWEST, ABOVE)
    if (given.has(port)) continue
    given.add(port)
    if (await exports.isFree(port)) return port
  }
}

function lowestGoingOut() {
  try {
    const lowest = Number.parseInt(readFileSync('/proc/sys/net/ipv4/ip_local_port_range', 'utf8'), 10)
    return lowest > LOWEST + 1000 ? lowest : 32_768
  }
  catch {
    return 32_768
  }
}

/** @returns whether nobody listens at it now */
exports.isFree = port =>
  new Promise((resolve) => {
    const server = createServer()
    server.once('error', () => resolve(false))
    server.listen(port, '127.0.0.1', () => server.close(() => resolve(true)))
  })

/** @returns whether something takes connections there */
exports.listens = port =>
  new Promise((resolve) => {
    const socket = connect(port, '127.0.0.1')
    socket
      .once('connect', () => {
        socket.destroy()
        resolve(true)
      })
      .once('error', () => resolve(false))
  })
