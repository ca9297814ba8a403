/** The operators’ door: live feed, and what is turned away. */
import { request as httpRequest, type IncomingMessage } from 'node:http'
import { join } from 'node:path'
import WebSocket from 'ws'
import type { LiveMessage } from '../../api/views'
import { realClock } from '../../control/clock'
import { programsIn } from '../../main/programs'
import { CannotListen } from '../../main/listen'
import { serve, type Serving } from '../../main/serve'
import type { Settings } from '../../main/settings'
import { ownFolder } from '../build/folder'
import { settingsIn } from '../build/settings'

const PROGRAMS = programsIn(join(__dirname, '../../dist'))
const folder = ownFolder()
let settings: Settings
let serving: Serving
let base = ''
beforeAll(async () => {
  // An account whose provider never answers.
  settings = { ...(await settingsIn(folder)), cloudAddress: 'http://127.0.0.1:9', cloudKey: 'made up' }
  base = `ws://127.0.0.1:${settings.port}`
  serving = await serve(settings, (_, response) => void response.end('page'), PROGRAMS, { clock: realClock })
})
afterAll(() => serving.close())

/** The next message of a kind. */
function next(socket: WebSocket, kind: string): Promise<LiveMessage> {
  return new Promise((resolve) => {
    const take = (data: Buffer) => {
      const message = JSON.parse(data.toString()) as LiveMessage
      if (message.kind !== kind) return
      socket.off('message', take)
      resolve(message)
    }
    socket.on('message', take)
  })
}
const refused = (path: string, headers: Record<string, string> = {}) =>
  new Promise<number>((resolve) => {
    const socket = new WebSocket(base + path, { headers })
    socket.on('unexpected-response', (_, response: IncomingMessage) => resolve(response.statusCode!))
    socket.on('open', () => resolve(101))
    socket.on('error', () => {
      /* told before */
    })
  })

describe('the live feed', () => {
  it('begins with the meter, goes on with it, and tells of a silent provider', async () => {
    const socket = new WebSocket(`${base}/live`)
    expect(await next(socket, 'meter')).toMatchObject({ meter: { machinesOut: 0, budget: 5 } })
    let meter = await next(socket, 'meter')
    while (meter.kind === 'meter' && meter.meter.silent.length === 0) meter = await next(socket, 'meter')
    expect(meter).toMatchObject({
      meter: { silent: [{ provider: 'Nimbral', sentence: expect.stringContaining('does not answer') }] },
    })
    socket.close()
  }, 20_000)

  it('sends the seconds of a run only to those who watch it, and survives rubbish', async () => {
    const [watching, other] = [new WebSocket(`${base}/live`), new WebSocket(`${base}/live`)]
    await Promise.all([next(watching, 'meter'), next(other, 'meter')])
    const heard: LiveMessage[] = []
    other.on('message', (d: Buffer) => heard.push(JSON.parse(d.toString()) as LiveMessage))
    other.send('}{')
    watching.send('{"watch":7}')
    const told = next(watching, 'seconds')
    const repeat = setInterval(
      () => serving.coordinator.news.live.emit('live', { kind: 'seconds', runId: 7, seconds: [] }),
      20,
    )
    expect(await told).toEqual({ kind: 'seconds', runId: 7, seconds: [] })
    clearInterval(repeat)
    await next(other, 'meter')
    expect(heard.some(m => m.kind === 'seconds')).toBe(false)
    watching.close()
    other.close()
  })
})

describe('the doors', () => {
  it('let nobody in on another path, from another site, or under another name', async () => {
    expect(await refused('/elsewhere')).toBe(404)
    expect(await refused('/live', { origin: 'http://evil.test' })).toBe(403)
    expect(await refused('/live', { host: 'evil.test' })).toBe(421)
    // Generators have a door of their own.
    expect(await refused('/link')).toBe(404)
  })

  it('answer a refused request with what to do', async () => {
    const answer = await new Promise<{ status: number, text: string }>((resolve) => {
      const request = httpRequest(
        {
          port: settings.port,
          host: '127.0.0.1',
          method: 'POST',
          path: '/api/x',
          headers: { 'content-type': 'text/plain' },
        },
        (response) => {
          let text = ''
          response.on('data', (d: Buffer) => {
            text += d.toString()
          })
          response.on('end', () => resolve({ status: response.statusCode!, text }))
        },
      )
      request.end('x')
    })
    expect(answer.status).toBe(415)
    expect(JSON.parse(answer.text)).toMatchObject({ code: 'content-type', remedy: expect.any(String) })
  })

  it('say so when the port is taken', async () => {
    await expect(
      serve(
        { ...settings, dataFolder: join(settings.dataFolder, 'other') },
        () => {
          /* never called */
        },
        PROGRAMS,
      ),
    ).rejects.toThrow(CannotListen)
  })
})
