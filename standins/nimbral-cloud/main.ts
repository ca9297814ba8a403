/**
 * The Nimbral cloud, an invented provider: `node dist/nimbral-cloud.mjs GENERATOR-FILE [settings.json]`. Settings are the fields of CloudSettings; PORT
 * chooses the port (default 4720). Bound to 127.0.0.1. docs/nimbral-cloud.md describes the API.
 */
import { readFileSync } from 'node:fs'
import { createServer, type IncomingMessage } from 'node:http'
import { DEFAULT_CLOUD, type CloudSettings } from './catalogue'
import { CloudError, Machines, type CreateRequest } from './machines'

const [program, file] = process.argv.slice(2)
if (!program) {
  console.error('Say what the machines run: node nimbral-cloud.mjs GENERATOR-FILE [settings.json]')
  process.exit(64)
}
const settings: CloudSettings = { ...DEFAULT_CLOUD, ...(file ? JSON.parse(readFileSync(file, 'utf8')) as Partial<CloudSettings> : {}) }
const machines = new Machines(settings, program)
const port = Number(process.env.PORT ?? 4720)

const server = createServer((request, response) => {
  void handle(request).then(
    ({ status, body }) => response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(body)),
    (error: unknown) => {
      const known = error instanceof CloudError ? error : new CloudError(400, 'bad-request', error instanceof Error ? error.message : 'bad request')
      response.writeHead(known.status, { 'content-type': 'application/json' }).end(JSON.stringify({ error: known.code, message: known.message }))
    },
  )
})

async function handle(request: IncomingMessage): Promise<{ status: number, body: unknown }> {
  const path = (request.url ?? '/').split('?')[0]!
  const machine = /^\/v1\/machines\/([\w-]+)$/.exec(path)?.[1]
  switch (`${request.method} ${machine ? '/v1/machines/:id' : path}`) {
    case 'GET /v1/regions': return ok(settings.regions.map(r => ({ name: r.name, bootSeconds: r.bootS, quota: { machines: r.quota, used: machines.used(r.name) } })))
    case 'GET /v1/machine-types': return ok(settings.types)
    case 'GET /v1/machines': return ok(machines.list())
    case 'POST /v1/machines': return { status: 201, body: machines.create(await bodyOf(request), request.headers['idempotency-key'] as string | undefined) }
    case 'GET /v1/machines/:id': return ok(machines.get(machine!))
    case 'DELETE /v1/machines/:id': return { status: 202, body: machines.end(machine!) }
    default: throw new CloudError(404, 'not-found', `There is no ${request.method} ${path}.`)
  }
}

async function bodyOf(request: IncomingMessage): Promise<CreateRequest> {
  let text = ''
  for await (const chunk of request) {
    text += String(chunk)
    if (text.length > 65_536) throw new CloudError(413, 'too-large', 'The request is larger than 64 kB.')
  }
  const asked = JSON.parse(text) as Partial<CreateRequest>
  if (typeof asked.region !== 'string' || typeof asked.type !== 'string') throw new CloudError(400, 'bad-request', 'Say region and type.')
  if (typeof asked.endsAfterS !== 'number' || asked.endsAfterS <= 0) throw new CloudError(400, 'bad-request', 'Say endsAfterS: every machine has an end.')
  return { region: asked.region, type: asked.type, name: asked.name ?? 'machine', environment: asked.environment ?? {}, endsAfterS: asked.endsAfterS }
}

function ok(body: unknown): { status: number, body: unknown } {
  return { status: 200, body }
}

server.on('error', (error: NodeJS.ErrnoException) => {
  console.error(error.code === 'EADDRINUSE' ? `Port ${port} is in use: end the program that holds it, or choose another with PORT.` : error.message)
  process.exit(1)
})
server.listen(port, '127.0.0.1', () => console.log(`Nimbral cloud on http://127.0.0.1:${port} · ${settings.regions.map(r => r.name).join(', ')}`))
for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => void machines.endAll().then(() => process.exit(0)))
