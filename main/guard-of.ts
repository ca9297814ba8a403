/** The guard of the HTTP server as it is set: for pages, API and sockets alike. */
import type { IncomingMessage } from 'node:http'
import proxyAddress from 'proxy-addr'
import type { VisitingRequest } from '../control/people/caller'
import { guardForwarded, guardHost, guardOrigin, type TurnedAway } from './guards'
import type { Settings } from './settings'

export type Guard = (request: IncomingMessage) => TurnedAway | undefined

/** @param nobodySignsIn whether anyone who is on this computer may do everything */
export function guardOf(settings: Settings, nobodySignsIn: () => boolean): Guard {
  const { host, port } = settings
  const ownNames = new Set([`${host}:${port}`, `localhost:${port}`, `127.0.0.1:${port}`])
  const names = new Set([...ownNames, ...(settings.publicAddress ? [new URL(settings.publicAddress).host] : [])])
  const origins = new Set([...[...names].flatMap(n => [`http://${n}`, `https://${n}`]), ...settings.allowedOrigins])
  const isProxy = proxyAddress.compile(settings.proxies ?? [])
  return (request: VisitingRequest) => {
    const { remoteAddress = '' } = request.socket
    const isOpen = nobodySignsIn()
    const known = !isOpen && isProxy(remoteAddress, 0)
    request.vornakFrom = known ? proxyAddress(request, isProxy) : remoteAddress
    // One who may do everything calls it by this computer's own names.
    const called = isOpen ? ownNames : names
    return guardHost(request, called) ?? guardForwarded(request, known) ?? guardOrigin(request, origins)
  }
}
