/** What a TLS server's key is pinned by, read off its certificate with Node's own means. */
import { createHash } from 'node:crypto'
import { connect } from 'node:tls'

export function pinAt(port: number): Promise<string> {
  return new Promise((resolve, reject) => {
    const socket = connect({ port, host: '127.0.0.1', rejectUnauthorized: false }, () => {
      const der = socket.getPeerX509Certificate()!.publicKey.export({ type: 'spki', format: 'der' })
      socket.destroy()
      resolve(`sha256//${createHash('sha256').update(der).digest('base64')}`)
    })
    socket.on('error', reject)
  })
}
