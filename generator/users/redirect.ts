/**
 * The request an answer redirects to (RFC 9110 §15.4): what changes on the way, and what stays with the host it was
 * meant for.
 */
import type { PreparedRequest } from '../exchange/exchange'

export function isRedirect(status: number): boolean {
  return status >= 301 && status <= 308 && status !== 304
}

/**
 * Where an answer redirects to; undefined when it does not say, or not over HTTP. @param location its header, where it
 * has one
 */
export function redirectTarget(location: string | undefined, from: string): URL | undefined {
  if (location === undefined) return undefined
  let to: URL
  try {
    to = new URL(location, from)
  }
  catch {
    return undefined
  }
  return to.protocol === 'http:' || to.protocol === 'https:' ? to : undefined
}

/**
 * @param hop how many redirects this makes
 * @param leftMs what is left of the step's time-out
 * @returns without cookies: they depend on the other address
 */
export function redirected(
  request: PreparedRequest,
  status: number,
  to: URL,
  hop: number,
  leftMs: number,
): PreparedRequest {
  // 303, and by custom 301 and 302 after a POST, ask for the other address with GET.
  const get = status === 303 || ((status === 301 || status === 302) && request.method === 'POST')
  const dropped = get ? ['cookie', 'content-type', 'content-length'] : ['cookie']
  const other = to.origin !== request.origin
  const headers: string[] = []
  for (let i = 0; i < request.headers.length; i += 2) {
    const name = request.headers[i]!.toLowerCase()
    // What proves who one is stays with the host it was meant for.
    if (dropped.includes(name) || name === 'vornak-hop' || (other && (name === 'authorization' || name === 'host'))) continue
    headers.push(request.headers[i]!, request.headers[i + 1]!)
  }
  headers.push('vornak-hop', String(hop))
  return {
    origin: to.origin,
    path: to.pathname + to.search,
    method: get && request.method !== 'HEAD' ? 'GET' : request.method,
    headers,
    body: get ? undefined : request.body,
    timeoutMs: Math.max(1, leftMs),
    keepBytes: request.keepBytes,
    needsWhole: request.needsWhole,
    ...(other ? {} : { saysHost: request.saysHost }),
  }
}
