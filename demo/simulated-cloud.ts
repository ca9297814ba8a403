/** A provider whose machines are simulated generators: how the demo's history is made on the same road as real runs. */
import type { Provider, ProviderMachine } from '../control/machines/providers/contract'
import type { Clock } from '../control/clock'
import { SimGenerator } from '../simfleet/sim-generator'
import type { World } from '../simfleet/world'
import { DEFAULT_CLOUD } from '../standins/nimbral-cloud/catalogue'
import { present } from '../core/values/present'

/** Time from asking to a running machine, ms. */
const BOOT_MS = 60_000

export function simulatedCloud(clock: Clock, world: World): Provider & { close(): void } {
  const machines = new Map<string, ProviderMachine & { generator?: SimGenerator }>()
  let count = 0
  return {
    id: 'nimbral',
    name: 'Nimbral',
    way: 'cloud',
    ownEnd: 'natively',
    mostBooting: 50,
    offers: () =>
      Promise.resolve(
        DEFAULT_CLOUD.regions.map(r => ({
          region: r.name,
          types: DEFAULT_CLOUD.types,
          quota: {
            most: r.quota,
            used: [...machines.values()].filter(m => m.region === r.name && m.state !== 'gone').length,
          },
          bootS: BOOT_MS / 1000,
        })),
      ),
    create({ region, type, name, environment }) {
      const machine: ProviderMachine & { generator?: SimGenerator } = {
        ref: `sim-${++count}`,
        name,
        region,
        type,
        state: 'pending',
      }
      machines.set(machine.ref, machine)
      clock.after(BOOT_MS / 4, () => {
        if (machine.state === 'pending') machine.state = 'booting'
      })
      clock.after(BOOT_MS * (0.8 + 0.4 * world.random()), () => {
        if (machine.state === 'gone') return
        machine.state = 'running'
        machine.generator = new SimGenerator({
          controller: present(environment.VORNAK_CONTROLLER, 'the controller'),
          ...(environment.VORNAK_PIN ? { pin: environment.VORNAK_PIN } : {}),
          token: present(environment.VORNAK_TOKEN, 'its token'),
          name,
          world,
          now: () => clock.now(),
          usersAtFullCpu: 240,
        })
      })
      return Promise.resolve({ ref: machine.ref })
    },
    list: () =>
      Promise.resolve(
        [...machines.values()].map(({ ref, name, region, type, state }) => ({ ref, name, region, type, state })),
      ),
    release(ref) {
      const machine = machines.get(ref)
      if (machine) {
        machine.state = 'gone'
        machine.generator?.close()
      }
      return Promise.resolve()
    },
    close() {
      for (const machine of machines.values()) machine.generator?.close()
    },
  }
}
