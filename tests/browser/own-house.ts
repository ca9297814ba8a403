/** The demo's house for a file of tests: opened before the first of them, closed after the last. */
import { test } from './test'
// @ts-expect-error a plain script of the repository
import { openHouse } from '../../scripts/house.mjs'

/** Where its programs are, and what can be done to them. */
export interface OwnHouse {
  /** Of Vornak itself. */
  url: string
  portal: string
  cloud: string
  mailbox: string
  startVornak(): Promise<void>
  /** Ends one of its programs. */
  end(name: string, signal?: string): Promise<void>
  /** A machine at the cloud that nobody here knows. */
  forgetMachine(): Promise<void>
  /** Asks Vornak, and reads the answer. @throws Error when it is none */
  call<T>(path: string, method?: string, body?: object): Promise<T>
}

interface HouseOptions {
  /** With the demo's earlier runs, as usual, or with its library alone. */
  history?: boolean
  /** Settings of the cloud that differ. */
  cloud?: object
  /** What differs in the environment of Vornak, which will be at this address. */
  env?: (url: string) => Promise<Record<string, string>>
}

/** @returns the house, which is there while tests run */
export function ownHouse(options: HouseOptions = {}): OwnHouse {
  let opened: (Omit<OwnHouse, 'call'> & { close(): Promise<void> }) | undefined
  test.beforeAll(async () => {
    opened = (await openHouse(options)) as typeof opened
  })
  test.afterAll(() => opened?.close())
  const house = () => {
    if (!opened) throw new Error('The house is opened before the first test.')
    return opened
  }
  return {
    get url() { return house().url },
    get portal() { return house().portal },
    get cloud() { return house().cloud },
    get mailbox() { return house().mailbox },
    startVornak: () => house().startVornak(),
    end: (name, signal) => house().end(name, signal),
    forgetMachine: () => house().forgetMachine(),
    async call<T>(path: string, method = 'GET', body?: object) {
      const answer = await fetch(`${house().url}/api/${path}`, {
        method,
        ...(body ? { headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) } : {}),
      })
      if (!answer.ok) throw new Error(`${method} ${path} is answered ${answer.status}: ${await answer.text()}`)
      return (await answer.json()) as T
    },
  }
}
