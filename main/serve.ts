/** Puts the process together: coordinator, operators' door with Nuxt's listener and the live feed, generators' door. */
import compression from 'compression'
import { createServer, type RequestListener, type Server, type ServerResponse } from 'node:http'
import { createServer as createTlsServer } from 'node:https'
import { isIPv6 } from 'node:net'
import { hostname } from 'node:os'
import { Coordinator, type CoordinatorOptions } from '../control/coordinator'
import { realClock } from '../control/clock'
import { holdFolder } from '../control/store/folder-lock'
import { provideCoordinator } from '../control/meeting-place'
import { contentPolicyOf } from './content-policy'
import { certificateOf, refuseOpen, refuseUnguarded } from './exposure'
import { generatorsDoor } from './generators-door'
import { guardOf } from './guard-of'
import { guardBody, type TurnedAway } from './guards'
import type { SignInElsewhere, ElsewhereSettings } from '../control/people/elsewhere'
import type { Settings } from './settings'
import { openLiveFeed } from './live-feed'
import { listen } from './listen'

export interface Serving {
  coordinator: Coordinator
  server: Server
  close(): Promise<void>
}

/**
 * @param pages Nuxt's listener: pages and API routes
 * @param programs files of the programs it starts
 */
export async function serve(
  settings: Settings,
  pages: RequestListener,
  programs: CoordinatorOptions['programs'],
  options: Partial<CoordinatorOptions> = {},
): Promise<Serving> {
  const { host, port } = settings
  refuseUnguarded(settings)
  // Known to few: those who do not use it do not load it.
  const elsewhere = settings.elsewhere ? { elsewhere: await elsewhereOf(settings, settings.elsewhere) } : {}
  const guard = guardOf(settings, () => coordinator.people.isOpen)
  // Answers only: files of the pages are compressed when they are built.
  const compressed = compression({ level: COMPRESSION_LEVEL })
  const answerWith = (policy: Promise<string>): RequestListener => (request, response) => {
    const refusal = guard(request) ?? guardBody(request)
    if (refusal) return refuse(response, refusal)
    for (const [name, value] of SECURITY_HEADERS) response.setHeader(name, value)
    void policy.then((value) => {
      response.setHeader('content-security-policy', value)
      // The package’s types are those of another framework; it takes Node’s own.
      compressed(request as never, response as never, () => pages(request, response))
    })
  }
  let answer: RequestListener = (_, response) => void response.writeHead(503, { 'retry-after': '1' }).end()
  const listener: RequestListener = (request, response) => answer(request, response)
  const server = settings.tls ? createTlsServer(certificateOf(settings.tls), listener) : createServer(listener)
  /** What is open, the first first. */
  const open: (() => unknown)[] = []
  const closeAll = async () => {
    for (const close of open.reverse()) await close()
  }
  const coordinatorThere = async () => {
    await listen(server, host, port, 'VORNAK_PORT')
    open.push(() => closed(server))
    const door = await generatorsDoor(settings.generators)
    open.push(door.close)
    const lock = holdFolder(settings.dataFolder)
    open.push(lock.release)
    const coordinator = coordinatorOf(settings, door.port, programs, { ...elsewhere, ...options })
    open.push(() => coordinator.shutDown())
    refuseOpen(settings, coordinator.people.isOpen)
    await door.open(coordinator)
    return coordinator
  }
  const coordinator = await coordinatorThere().catch(async (fault) => {
    await closeAll()
    throw fault
  })
  provideCoordinator(coordinator)
  answer = answerWith(contentPolicyOf(pages))
  coordinator.hosts.tryUnfit()
  const feed = openLiveFeed(server, coordinator, guard)
  return {
    coordinator,
    server,
    async close() {
      feed.close()
      await closeAll()
    },
  }
}

/** Those still connected are let go. */
function closed(server: Server): Promise<unknown> {
  server.closeAllConnections()
  return new Promise(resolve => server.close(resolve))
}

async function elsewhereOf(settings: Settings, elsewhere: ElsewhereSettings): Promise<SignInElsewhere> {
  const { SignInElsewhere } = await import('../control/people/elsewhere')
  return new SignInElsewhere(elsewhere, addressOf(settings), realClock)
}

/** Where people find it. */
const addressOf = ({ host, port, tls, publicAddress }: Settings): string =>
  publicAddress ?? `${tls ? 'https' : 'http'}://${host}:${port}`

/** Where generators find their door. @param port it listens at */
function doorAddressOf({ generators: { host, address }, publicAddress }: Settings, port: number): string {
  if (address) return address
  // “Everywhere” is no name to call somebody by.
  const isEverywhere = ['0.0.0.0', '::'].includes(host)
  const name = isEverywhere ? (publicAddress ? new URL(publicAddress).hostname : hostname()) : host
  return `https://${isIPv6(name) ? `[${name}]` : name}:${port}`
}

function coordinatorOf(
  settings: Settings,
  doorPort: number,
  programs: CoordinatorOptions['programs'],
  options: Partial<CoordinatorOptions>,
): Coordinator {
  const doorAddress = () => doorAddressOf(settings, doorPort)
  return new Coordinator({
    dataFolder: settings.dataFolder,
    clock: realClock,
    providers: [],
    ...(settings.cloudAddress
      ? { firstAccount: { id: 'nimbral', name: 'Nimbral', address: settings.cloudAddress, key: settings.cloudKey } }
      : {}),
    doorAddress,
    address: () => addressOf(settings),
    ...(settings.generators.tls ? { doorCertificate: certificateOf(settings.generators.tls) } : {}),
    ownHosts: () => [addressOf(settings), doorAddress()].map(address => new URL(address).host),
    ...(settings.stageBounds ? { stageBounds: settings.stageBounds } : {}),
    programs,
    keyFile: settings.keyFile,
    dailyBudget: settings.dailyBudget,
    ...(settings.leastDiskBytes === undefined ? {} : { leastDiskBytes: settings.leastDiskBytes }),
    selfTestS: settings.selfTestS,
    ...(settings.levelPace ? { levelPace: settings.levelPace } : {}),
    onFatal: (error) => {
      throw error
    },
    ...options,
  })
}

/** Of 1 to 9: answers are made for one reader, and the time counts more than the last kilobyte. */
const COMPRESSION_LEVEL = 3

/** Nothing here may be framed, guessed at, or told elsewhere. */
const SECURITY_HEADERS = [
  ['x-content-type-options', 'nosniff'],
  ['x-frame-options', 'DENY'],
  ['referrer-policy', 'same-origin'],
] as const

function refuse(response: ServerResponse, { status, code, sentence, remedy }: TurnedAway): void {
  response
    .writeHead(status, { 'content-type': 'application/json', connection: 'close' })
    .end(JSON.stringify({ code, sentence, remedy }))
}
