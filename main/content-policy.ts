/**
 * The content security policy of the pages: scripts only of their own, and those that stand in the page itself by their
 * hash, as the build has written them. Styles may stand in the page: tooltips of charts bring theirs along.
 */
import { createHash } from 'node:crypto'
import { createServer, type RequestListener } from 'node:http'
import type { AddressInfo } from 'node:net'

/** @param pages whose first page is read for what stands in it @returns the value of the header */
export async function contentPolicyOf(pages: RequestListener): Promise<string> {
  const page = await firstPageOf(pages)
  const scripts = [...page.matchAll(/<script(?![^>]*\bsrc=)[^>]*>([^]*?)<\/script>/g)].map(([, text = '']) => text)
  const hashes = scripts.map(text => `'sha256-${createHash('sha256').update(text).digest('base64')}'`)
  return Object.entries({ ...POLICY, 'script-src': ['\'self\'', ...new Set(hashes)] })
    .map(([name, values]) => `${name} ${values.join(' ')}`)
    .join('; ')
}

/** A page takes milliseconds, ms. */
const MOST_MS = 5000

/** Asked for once, at a door of its own that nobody else knows. */
async function firstPageOf(pages: RequestListener): Promise<string> {
  const server = createServer(pages)
  await new Promise<void>(resolve => server.listen(0, '127.0.0.1', resolve))
  try {
    // It listens on a port.
    const { port } = server.address() as AddressInfo
    const answer = await fetch(`http://127.0.0.1:${port}/`, { signal: AbortSignal.timeout(MOST_MS) })
    return await answer.text()
  }
  catch {
    // Pages that cannot be asked have nothing in them that could run.
    return ''
  }
  finally {
    server.closeAllConnections()
    server.close()
  }
}

const SELF = '\'self\''

const POLICY = {
  'default-src': [SELF],
  'style-src': [SELF, '\'unsafe-inline\''],
  'img-src': [SELF, 'data:', 'blob:'],
  'font-src': [SELF, 'data:'],
  'worker-src': [SELF, 'blob:'],
  'object-src': ['\'none\''],
  'base-uri': ['\'none\''],
  'form-action': [SELF],
  'frame-ancestors': ['\'none\''],
}
