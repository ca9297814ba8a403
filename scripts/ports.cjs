/** Ports of this computer, for scripts, the demo and tests: which is free, and who listens. */
const { connect, createServer } = require('node:net')

/** @returns a port that nobody listens at now */
exports.freePort = () =>
  new Promise((resolve) => {
    const server = createServer()
    server.listen(0, '127.0.0.1', () => {
      const { port } = server.address()
      server.close(() => resolve(port))
    })
  })

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
