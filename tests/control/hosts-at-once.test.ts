/** Private hosts that are tried at the same time. */
import { join } from 'node:path'
import { realClock } from '../../control/clock'
import { Hosts } from '../../control/hosts/hosts'
import { hostStore } from '../../control/store/hosts'
import { openStore } from '../../control/store/open'
import { sealingWith } from '../../control/store/sealing'
import { hostOk } from '../../core/fleet/site'
import { ownFolder } from '../build/folder'
import { clientKey, OpenSshHost } from '../build/openssh'
import { exactly, timed } from '../build/timed'

const folder = ownFolder()
const key = clientKey()
const store = openStore(join(folder, 'vornak.db'))
const hosts = new Hosts(hostStore(store), sealingWith(join(folder, 'key')), realClock, () => {
  /* not shown */
})
let host: OpenSshHost
beforeAll(async () => {
  host = await new OpenSshHost('a', join(folder, 'a'), { publicKey: key.public }).start()
  hosts.saveKey('right', key.private, '')
}, 30_000)
afterAll(async () => {
  await host.stop()
  store.close()
})

timed('twenty take no longer than a few', async () => {
  const names = Array.from({ length: 20 }, (_, i) => `m${i}`)
  hosts.saveSite(
    {
      id: 'many',
      code: 'MNY',
      name: 'Many',
      template: {
        port: host.port,
        user: 'root',
        signIn: { kind: 'key', key: 'right' },
        folder: host.work,
        node: process.execPath,
      },
      hosts: names.map(name => ({ name, address: '127.0.0.1' })),
    },
    new Set(),
  )
  const refs = names.map(name => `many/${name}`)
  await hosts.try(refs.slice(0, 1))
  const one = performance.now()
  await hosts.try(refs.slice(0, 1))
  const oneMs = performance.now() - one
  const all = performance.now()
  const tries = await hosts.try(refs)
  const allMs = performance.now() - all
  await exactly(() => expect(Object.values(tries).every(hostOk)).toBe(true))
  // One after the other they would take twenty times as long; they share two cores.
  expect(allMs).toBeLessThan(12 * oneMs)
}, 60_000)
