/** To whom the operators' door is open: to this computer alone, or to a network, and then only as it should be. */
import { readFileSync } from 'node:fs'
import { BlockList, isIP } from 'node:net'
import type { CertificateFiles, Settings } from './settings'
import { messageOf } from '../core/values/thrown'

/** It would be open to a network as it is set. */
export class OpenToOthers extends Error {
  override name = 'OpenToOthers'
}

/** @throws OpenToOthers where what people send would be read on the way */
export function refuseUnguarded({ host, tls, proxies = [] }: Settings): void {
  if (isLoopback(host) || tls || proxies.length > 0) return
  throw new OpenToOthers(
    `On ${host} passwords would be read on the way: give a certificate with VORNAK_TLS_CERT and VORNAK_TLS_KEY, or the address of the proxy that speaks TLS before it with VORNAK_PROXY.`,
  )
}

/** @param isOpen whether nobody can sign in yet @throws OpenToOthers where others could reach it then */
export function refuseOpen({ host }: Settings, isOpen: boolean): void {
  if (!isOpen || isLoopback(host)) return
  throw new OpenToOthers(
    `Nobody can sign in yet, and on ${host} anyone who reaches it could do everything. Make the first person: npm run person -- NAME, or start it on 127.0.0.1 and open its page.`,
  )
}

const loopback = new BlockList()
loopback.addSubnet('127.0.0.0', 8)
loopback.addAddress('::1', 'ipv6')

function isLoopback(host: string): boolean {
  const family = isIP(host)
  return family === 0 ? host === 'localhost' : loopback.check(host, family === 6 ? 'ipv6' : 'ipv4')
}

/** @returns certificate and key, PEM */
export function certificateOf({ certFile, keyFile, settings }: CertificateFiles): { cert: string, key: string } {
  const read = (file: string, setting: string) => {
    try {
      return readFileSync(file, 'utf8')
    }
    catch (error) {
      throw new Error(`${setting} cannot be read: ${messageOf(error)}`, { cause: error })
    }
  }
  return { cert: read(certFile, settings[0]), key: read(keyFile, settings[1]) }
}
