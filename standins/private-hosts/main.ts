/**
 * Private hosts: SSH servers of their own, each with a home directory and a host key that stays: `node
 * dist/private-hosts.mjs FOLDER settings.json`. Settings: `hosts` (name, port), `user`, `publicKey` of the one who may
 * sign in, `sftp` (false refuses it, as many hardened hosts do). Commands run on this computer as its user. Bound to
 * 127.0.0.1. Ending the stand-in powers its hosts off.
 */
import { readFileSync } from 'node:fs'
import { PrivateHost, type HostSettings } from './host'

interface Settings extends HostSettings {
  hosts: { name: string, port: number }[]
}

const [folder, file] = process.argv.slice(2)
if (!folder || !file) {
  console.error('Say where the hosts live and what they are: node private-hosts.mjs FOLDER settings.json')
  process.exit(64)
}
// Written by the tests and the demo.
const { hosts: wanted, ...settings } = JSON.parse(readFileSync(file, 'utf8')) as Settings
const hosts = wanted.map(({ name, port }) => new PrivateHost(name, port, folder, settings))
for (const host of hosts) {
  host.listen().then(
    () => console.log(`${host.name} on 127.0.0.1:${host.port}`),
    (error: NodeJS.ErrnoException) => {
      console.error(
        error.code === 'EADDRINUSE'
          ? `Port ${host.port} is in use: end the program that holds it, or give ${host.name} another.`
          : error.message,
      )
      process.exit(1)
    },
  )
}
for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.on(signal, () => {
    for (const host of hosts) host.powerOff()
    process.exit(0)
  })
