/**
 * The Nimbral cloud, an invented provider: `node dist/nimbral-cloud.mjs GENERATOR-FILE [settings.json]`. Settings are
 * the fields of CloudSettings; PORT chooses the port (default 4720). Bound to 127.0.0.1. docs/nimbral-cloud.md
 * describes the API.
 */
import { readFileSync } from 'node:fs'
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http'
import { DEFAULT_CLOUD, type CloudSettings } from './catalogue'
import { FaultBook } from './faults'
import { CloudError, Machines, type CreateRequest } from './machines'
import { processes, simulated } from './programs'

const [program, file] = process.argv.slice(2)
if (!program) {
  console.error('Say what the machines run: node nimbral-cloud.mjs GENERATOR-FILE [settings.json]')
  process.exit(64)
}
const settings: CloudSettings = {
  ...DEFAULT_CLOUD,
  // Written by the tests and the demo, which say only what differs.
  ...(file ? (JSON.parse(readFileSync(file, 'utf8')) as Partial<CloudSettings>) : {}),
}
const faults = new FaultBook()
const machines = new Machines(settings, settings.simulator ? simulated(settings.simulator) : processes(program), faults)
const port = Number(process.env.PORT ?? 4720)
/** Calls there were, and those that were turned away: an outside count of what keeps to the limit. */
const calls = { taken: 0, turnedAway: 0 }
let tokens = settings.rateLimit.atOnce
let filledAt = performance.now()

const server = createServer((request, response) => {
  void handle(request, response).catch((error: unknown) => {
    const known =
      error instanceof CloudError
        ? error
        : new CloudError(400, 'bad-request', error instanceof Error ? error.message : 'bad request')
    answer(response, known.status, { error: known.code, message: known.message })
  })
})

async function handle(request: IncomingMessage, response: ServerResponse): Promise<void> {
  const url = new URL(request.url ?? '/', 'http://nimbral')
  if (!url.pathname.startsWith('/v1/')) return answer(response, 200, await desk(request, url.pathname))
  if (!mayCall()) {
    calls.turnedAway++
    response.setHeader('retry-after', '1')
    return answer(response, 429, {
      error: 'too-fast',
      message: `At most ${settings.rateLimit.perSecond} calls a second.`,
    })
  }
  calls.taken++
  if (
    settings.keys.length > 0 &&
    !settings.keys.includes(/^Bearer (.+)$/.exec(request.headers.authorization ?? '')?.[1] ?? '')
  )
    return answer(response, 401, { error: 'key', message: 'This key opens no account.' })
  if (faults.strikes('errors')) return answer(response, 500, { error: 'internal', message: 'Something went wrong.' })
  if (faults.strikes('html'))
    return void response
      .writeHead(200, { 'content-type': 'text/html' })
      .end('<!doctype html><title>Nimbral</title><p>We are improving things for you.')
  const [, thing, id = ''] = /^\/v1\/(machines|attached)\/([\w-]+)$/.exec(url.pathname) ?? []
  switch (`${request.method} ${thing ? `/v1/${thing}/:id` : url.pathname}`) {
    case 'GET /v1/terms':
      return answer(response, 200, {
        currency: settings.currency,
        pricesAsOf: settings.pricesAsOf,
        otherBills: settings.otherBills,
        attachments: settings.attachments,
      })
    case 'GET /v1/regions':
      return answer(
        response,
        200,
        settings.regions.map(r => ({
          name: r.name,
          bootSeconds: r.bootS,
          quota: { machines: r.quota, used: machines.used(r.name) },
          outOfStock: machines.outOfStock(r.name),
        })),
      )
    case 'GET /v1/machine-types':
      return answer(response, 200, settings.types)
    case 'GET /v1/machines':
      return answer(response, 200, machines.list())
    case 'GET /v1/attached':
      return answer(response, 200, machines.listAttached())
    case 'GET /v1/bills':
      return answer(
        response,
        200,
        machines.billsOf((url.searchParams.get('machines') ?? '').split(',').filter(Boolean)),
      )
    case 'POST /v1/machines': {
      const made = machines.create(
        createRequest(await bodyOf(request)),
        // Given twice it is one text, too: only few headers become lists.
        request.headers['idempotency-key'] as string | undefined,
      )
      // Made, and never told: the connection stays open until the caller gives up.
      if (faults.strikes('unheard')) return
      return answer(response, 201, made)
    }
    case 'GET /v1/machines/:id':
      return answer(response, 200, machines.get(id))
    case 'PATCH /v1/machines/:id':
      return answer(response, 200, machines.extend(id, endsAfter(await bodyOf(request))))
    case 'DELETE /v1/machines/:id':
      return answer(response, 202, machines.end(id))
    case 'DELETE /v1/attached/:id':
      return answer(response, 202, machines.endAttached(id))
    default:
      throw new CloudError(404, 'not-found', `There is no ${request.method} ${url.pathname}.`)
  }
}

/** Not part of the API: how the stand-in is made to misbehave, and what it counted. */
async function desk(request: IncomingMessage, path: string): Promise<unknown> {
  switch (`${request.method} ${path}`) {
    case 'GET /faults':
      return faults.faults
    case 'PUT /faults':
      return faults.set(await bodyOf(request))
    case 'POST /reclaim': {
      const { machines: ids, count } = await bodyOf(request)
      // Written by the tests.
      return machines.reclaim(Array.isArray(ids) ? (ids as string[]) : Number(count ?? 1))
    }
    case 'GET /calls':
      return calls
    default:
      throw new CloudError(404, 'not-found', `There is no ${request.method} ${path}.`)
  }
}

function mayCall(): boolean {
  const now = performance.now()
  tokens = Math.min(settings.rateLimit.atOnce, tokens + ((now - filledAt) / 1000) * settings.rateLimit.perSecond)
  filledAt = now
  if (tokens < 1) return false
  tokens--
  return true
}

async function bodyOf(request: IncomingMessage): Promise<Record<string, unknown>> {
  let text = ''
  for await (const chunk of request) {
    text += String(chunk)
    if (text.length > 65_536) throw new CloudError(413, 'too-large', 'The request is larger than 64 kB.')
  }
  // Its fields are looked at where they are read.
  return JSON.parse(text) as Record<string, unknown>
}

function createRequest(asked: Record<string, unknown>): CreateRequest {
  // Each of them is looked at below.
  const { region, type, name, environment, interruptible, attached } = asked as Partial<CreateRequest>
  if (typeof region !== 'string' || typeof type !== 'string')
    throw new CloudError(400, 'bad-request', 'Say region and type.')
  return {
    region,
    type,
    name: name ?? 'machine',
    environment: environment ?? {},
    endsAfterS: endsAfter(asked),
    interruptible: interruptible === true,
    attached: attached ?? {},
  }
}

function endsAfter({ endsAfterS }: Record<string, unknown>): number {
  if (typeof endsAfterS !== 'number' || endsAfterS <= 0)
    throw new CloudError(400, 'bad-request', 'Say endsAfterS: every machine has an end.')
  return endsAfterS
}

function answer(response: ServerResponse, status: number, body: unknown): void {
  response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(body))
}

server.on('error', (error: NodeJS.ErrnoException) => {
  console.error(
    error.code === 'EADDRINUSE'
      ? `Port ${port} is in use: end the program that holds it, or choose another with PORT.`
      : error.message,
  )
  process.exit(1)
})
server.listen(port, '127.0.0.1', () =>
  console.log(`Nimbral cloud on http://127.0.0.1:${port} · ${settings.regions.map(r => r.name).join(', ')}`),
)
for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.on(signal, () => void machines.endAll().then(() => process.exit(0)))
