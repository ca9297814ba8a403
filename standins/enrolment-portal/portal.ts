/** The enrolment portal: an HTTP service that can be overloaded, measured and asked what it received. */
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http'
import { Counts } from './counts'
import { NO_PAGE_FAULTS, OwnFigures, type PageFaults } from './own-figures'
import { PreciseTimer } from './precise-timer'
import { Replicas, type ReplicaSettings } from './replicas'
import { drawServiceMs, ROUTES, type Route } from './routes'
import { Site, SITE_SERVICE_MS, type Page } from './site'

export interface PortalSettings extends ReplicaSettings {
  routes: Route[]
  /** Seed of the service times and of tokens. */
  seed: number
  /** Requests waiting per replica from which on the site's answers become careless. */
  carelessAtWaiting: number
}

export const DEFAULT_SETTINGS: PortalSettings = {
  routes: ROUTES,
  workers: 4,
  replicas: 2,
  mostReplicas: 2,
  mostWaiting: 400,
  scaleUpAtWaiting: 20,
  scaleUpAfterMs: 20_000,
  scaleDownAfterMs: 60_000,
  seed: 1,
  carelessAtWaiting: 40,
}

/** Largest request body read, bytes. */
const MOST_BODY_BYTES = 1024 * 1024

export interface Portal {
  server: Server
  counts: Counts
  replicas: Replicas
  figures: OwnFigures
  /** Service times drawn, in order of arrival, with the arrival's moment; kept for checks against theory. */
  draws: { arrivedAt: number, serviceMs: number }[]
}

/** @param keepDraws remember every arrival and service time */
export function createPortal(settings: PortalSettings = DEFAULT_SETTINGS, keepDraws = false): Portal {
  const counts = new Counts()
  const replicas = new Replicas(settings)
  const timer = new PreciseTimer()
  const random = seeded(settings.seed)
  const site = new Site(settings.seed)
  const draws: Portal['draws'] = []
  const byRoute = new Map(settings.routes.map(r => [`${r.method} ${r.path}`, r]))
  const figures = new OwnFigures(replicas)

  function serve(request: IncomingMessage, response: ServerResponse, body: string): void {
    const path = (request.url ?? '/').split('?')[0]!
    const arrivedAt = performance.now()
    if (request.method === 'GET' && path === '/metrics') return tellFigures(request, response)
    if (request.method === 'POST' && path === '/metrics/faults') return takeFaults(response, body)
    if (request.method === 'GET' && path === '/replicas') return answer(response, 200, JSON.stringify(replicas.log()))
    if (request.method === 'GET' && path === '/counts') return answer(response, 200, JSON.stringify(counts.all()))
    if (request.method === 'GET' && path === '/students')
      return answer(response, 200, JSON.stringify(Object.fromEntries(site.students)))
    if (request.method === 'GET' && path === '/')
      return answer(
        response,
        200,
        JSON.stringify({
          name: 'Enrolment portal (stand-in)',
          routes: settings.routes.map(r => `${r.method} ${r.path}`),
          site: '/portal',
          counts: '/counts',
          students: '/students',
          metrics: '/metrics',
          replicas: '/replicas',
        }),
      )
    const route = byRoute.get(`${request.method} ${path}`)
    const run = String(request.headers['vornak-run'] ?? '-') + (request.headers['vornak-rehearsal'] ? ' rehearsal' : '')
    const step = request.headers['vornak-step']
      ? decodeURIComponent(String(request.headers['vornak-step']))
      : `${request.method} ${path}`
    const count = counts.received(run, step, Date.now())
    figures.received(run, step)
    const finish = (status: number, text: string, page?: Page) => {
      count.answered[status] = (count.answered[status] ?? 0) + 1
      const insideMs = Math.max(0, performance.now() - arrivedAt)
      figures.answered(run, step, path, status, insideMs)
      answer(response, status, text, page?.type, { ...page?.headers, 'server-timing': `total;dur=${insideMs.toFixed(2)}` })
    }
    if (!route) {
      const query = new URLSearchParams((request.url ?? '').split('?')[1] ?? '')
      const visit = {
        request,
        path,
        query,
        body,
        overloaded: replicas.waiting(arrivedAt) >= settings.carelessAtWaiting * replicas.serving(arrivedAt),
      }
      const meanMs = SITE_SERVICE_MS[`${request.method} ${path}`]
      const page = site.answer(visit)
      if (page && meanMs === undefined) return finish(page.status, page.body, page)
      if (page) {
        const admitted = replicas.admit(
          arrivedAt,
          drawServiceMs({ kind: 'lognormal', medianMs: meanMs ?? 0, sigma: 0.4 }, random),
        )
        if (!admitted.admitted) return finish(503, JSON.stringify({ error: 'the portal is full, try again later' }))
        return timer.at(admitted.endsAt, () => finish(page.status, page.body, page))
      }
    }
    if (!route) return finish(404, JSON.stringify({ error: `there is no ${request.method} ${path} here` }))
    const serviceMs = drawServiceMs(route.service, random)
    if (keepDraws) draws.push({ arrivedAt, serviceMs })
    const admission = replicas.admit(arrivedAt, serviceMs)
    if (!admission.admitted) return finish(503, JSON.stringify({ error: 'the portal is full, try again later' }))
    timer.at(admission.endsAt, () => finish(route.status, route.body))
  }

  function tellFigures(request: IncomingMessage, response: ServerResponse): void {
    const { hangs, fails, clockAheadMs } = figures.faults
    if (hangs) return
    if (fails) return answer(response, 500, 'the page has failed', 'text/plain')
    const ahead: Record<string, string> =
      clockAheadMs === 0 ? {} : { date: new Date(Date.now() + clockAheadMs).toUTCString() }
    const isOlder = /^text\/plain\b/.test(request.headers.accept ?? '')
    const type = isOlder ? 'text/plain; version=0.0.4; charset=utf-8' : 'application/openmetrics-text; version=1.0.0; charset=utf-8'
    answer(response, 200, figures.page(isOlder), type, ahead)
  }

  /** Told how its page of figures is to be wrong; `restart`: its counters begin anew. */
  function takeFaults(response: ServerResponse, body: string): void {
    // Written by the tests and the demo.
    const { restart, ...faults } = JSON.parse(body || '{}') as Partial<PageFaults> & { restart?: boolean }
    figures.faults = { ...NO_PAGE_FAULTS, ...faults }
    if (restart) figures.restart()
    answer(response, 204, '')
  }

  const server = createServer({ keepAliveTimeout: 75_000 }, (request, response) => {
    const chunks: Buffer[] = []
    let size = 0
    request.on('data', (chunk: Buffer) => {
      size += chunk.length
      chunks.push(chunk)
      if (size > MOST_BODY_BYTES) request.destroy()
    })
    request.on('end', () => serve(request, response, size > 0 ? Buffer.concat(chunks).toString() : ''))
    request.on('error', () => {
      /* the client has gone */
    })
  })
  server.on('connection', (socket) => {
    figures.connections++
    socket.once('close', () => {
      figures.connections--
    })
  })
  return { server, counts, replicas, figures, draws }
}

function answer(
  response: ServerResponse,
  status: number,
  body: string,
  type = 'application/json',
  headers: Page['headers'] = {},
): void {
  if (response.destroyed) return
  response.writeHead(status, { ...headers, 'content-type': type, 'content-length': Buffer.byteLength(body) })
  response.end(body)
}

/**
 * Seeded numbers in [0, 1): mulberry32 (public domain). The stand-ins import nothing of the rest, so it stands here
 * again.
 */
function seeded(seed: number): () => number {
  let a = seed | 0
  return () => {
    a = (a + 0x6d2b79f5) | 0
    let t = Math.imul(a ^ (a >>> 15), 1 | a)
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296
  }
}
