/**
 * Word of a run that nobody looks at, on real processes: its report by mail, through the stand-in of a mail server, and
 * a signed POST at each change to a program, also when Vornak was gone meanwhile.
 */
import { execFileSync } from 'node:child_process'
import { createHash, createHmac } from 'node:crypto'
import { writeFileSync } from 'node:fs'
import { createServer, type IncomingHttpHeaders, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { join } from 'node:path'
import { simpleParser } from 'mailparser'
import type { SendingView } from '../../api/views'
import type { ToldEvent } from '../../core/dispatch/run-event'
import { freePort } from '../../scripts/ports.cjs'
import { House, until } from '../build/house'
import { hill, journey, plan, step } from '../build/plans'

const looking = journey({
  id: 'looking',
  name: 'Looking',
  round: [step({ name: 'Look', url: '/timetable', think: { kind: 'uniform', fromMs: 100, toMs: 300 } })],
})
const few = plan({
  targetId: 'enrolment-portal',
  rehearse: false,
  groups: [{ letter: 'A', name: 'Lookers', journeyId: 'looking', profile: hill(6, 1, 12, 1) }],
  locations: [{ code: 'REY', provider: 'nimbral', region: 'reyk', machineType: 'brisk-1', machines: 1 }],
  placement: { A: { REY: 'rest' } },
  mailTo: ['registrar@ostervik.example', 'ana@ostervik.example'],
  // Nothing is as quick: it is broken while it loads.
  objectives: [{ metric: 'p95', step: 'Look', atMost: 1 }],
})
interface Told {
  event: ToldEvent
  text: string
  headers: IncomingHttpHeaders
}
let house: House
let gate: Server
let address: string
let mailbox: number
const told: Told[] = []
/** How many are refused first. */
let refusing = 1
beforeAll(async () => {
  house = await House.build({ plans: { few }, journeys: [looking] })
  const smtp = await freePort()
  mailbox = await freePort()
  house.start('mailbox', ['mailbox.mjs'], { PORT: String(mailbox), SMTP_PORT: String(smtp) })
  gate = createServer((request, response) => {
    let text = ''
    request.on('data', (part: Buffer) => (text += part.toString()))
    request.on('end', () => {
      if (refusing-- > 0) return void response.writeHead(503).end()
      told.push({ event: JSON.parse(text) as ToldEvent, text, headers: request.headers })
      response.writeHead(204).end()
    })
  })
  await new Promise<void>(r => gate.listen(0, '127.0.0.1', () => r()))
  address = `http://127.0.0.1:${(gate.address() as AddressInfo).port}/runs`
  await until(() => fetch(`http://127.0.0.1:${mailbox}/mails`).then(r => r.ok, () => false), 10_000, 'the mailbox')
  const server = { host: '127.0.0.1', port: smtp, security: 'none', from: 'load@ostervik.example' }
  expect((await house.post('sending/mail', server, 'PUT')).status).toBe(200)
}, 60_000)
afterAll(async () => {
  await house?.close()
  gate?.close()
})

const mails = async () => (await (await fetch(`http://127.0.0.1:${mailbox}/mails`)).json()) as { to: string[], from: string, text: string }[]
const sending = () => house.get<SendingView>('sending')

it('a program is told of each change by a signed POST, in order, again when it was not taken; the answer is mailed', async () => {
  const { body } = await house.post('sending/hooks', { name: 'gate', address, tells: ['state', 'broken', 'answer'] })
  const key = String(body.secret)
  const run = await house.startPlan('few')
  await house.runUntil(run, r => r.changes.some(c => c.event === 'objectiveBroken'), 'the objective to be broken')
  // What came meanwhile is told by the process that comes after it.
  await house.kill('vornak')
  await house.startVornak()
  const { line, changes } = await house.ended(run)
  await until(() => Promise.resolve(told.some(t => t.event.kind === 'answer')), 60_000, 'the answer to be told')
  await until(async () => (await sending()).dispatches.every(d => d.sentAt !== undefined), 60_000, 'all to be sent')

  const moves = changes.filter(c => c.from !== c.to)
  const states = told.filter(t => t.event.kind === 'state').map(t => t.event)
  expect(states.map(e => e.change!.to).sort()).toEqual(moves.map(c => c.to).sort())
  for (const event of states) {
    const move = moves.find(c => c.to === event.change!.to)!
    expect([event.at, event.change!.from, event.run!.id]).toEqual([new Date(move.at).toISOString(), move.from, run])
  }
  expect(told.filter(t => t.event.kind === 'broken').map(t => t.event.objective)).toContain('p95 of Look')
  const answers = told.filter(t => t.event.kind === 'answer')
  expect(answers.map(t => t.event.answer)).toEqual([{ verdict: 'broken', sentence: line.sentence, soundness: line.soundness }])
  expect(answers[0]!.event.run).toMatchObject({ id: run, planId: 'few', address: `${house.url}/runs/${run}` })
  // As a program holds it, by RFC 9421: what was covered, in the order the input says.
  for (const { headers, text } of told) {
    expect(headers['content-digest']).toBe(`sha-256=:${createHash('sha256').update(text).digest('base64')}:`)
    const input = String(headers['signature-input']).replace(/^vornak=/, '')
    const values: Record<string, string> = { '@method': 'POST', '@target-uri': address }
    const lines = [...input.slice(0, input.indexOf(')')).matchAll(/"([^"]+)"/g)].map(([, name]) => `"${name}": ${values[name!] ?? String(headers[name!])}`)
    const base = [...lines, `"@signature-params": ${input}`].join('\n')
    expect(headers.signature).toBe(`vornak=:${createHmac('sha256', key).update(base).digest('base64')}:`)
  }
  const log = (await sending()).dispatches
  expect(log.filter(d => d.attempts > 1).length).toBeGreaterThanOrEqual(1)
  expect(log.some(d => JSON.stringify(d).includes(key))).toBe(false)

  const came = await mails()
  expect(came.map(m => m.to).sort()).toEqual([['ana@ostervik.example'], ['registrar@ostervik.example']])
  const mail = await simpleParser(Buffer.from(came[0]!.text, 'latin1'))
  expect(mail.subject).toContain(line.sentence)
  expect(mail.text).toContain(line.question)
  expect(mail.html).toContain(`${house.url}/runs/${run}`)
  const [attached] = mail.attachments
  const file = join(house.folder, 'mailed.pdf')
  writeFileSync(file, attached!.content)
  expect(attached!.filename).toBe(`run-${run}-report.pdf`)
  expect(execFileSync('pdftotext', ['-layout', file, '-'], { encoding: 'utf8' })).toContain(line.sentence)
}, 240_000)

it('nothing is sent twice; by hand it is, to whom one says', async () => {
  const before = (await mails()).length
  const hooks = told.length
  await house.kill('vornak')
  await house.startVornak()
  expect((await house.post('runs/1/report/mail', { to: ['dean@ostervik.example'] })).status).toBe(200)
  await until(async () => (await mails()).length === before + 1, 30_000, 'the mail to come')
  expect((await mails())[0]!.to).toEqual(['dean@ostervik.example'])
  expect(told).toHaveLength(hooks)
  expect((await house.post('runs/1/report/mail', { to: ['dean'] })).status).toBe(400)
  expect((await house.post('runs/99/report/mail', { to: ['dean@ostervik.example'] })).status).toBe(404)
}, 60_000)

it('what is not taken at a try is said', async () => {
  const { hooks: [hook] } = await sending()
  expect((await house.post(`sending/hooks/${hook!.id}/try`, {})).status).toBe(200)
  refusing = 1
  expect(await house.post(`sending/hooks/${hook!.id}/try`, {})).toMatchObject({ status: 502, body: { code: 'not-sent' } })
  expect((await house.post('sending/mail/try', { to: 'ana@ostervik.example' })).status).toBe(200)
  await house.kill('mailbox')
  expect(await house.post('sending/mail/try', { to: 'ana@ostervik.example' })).toMatchObject({ status: 502 })
  expect((await house.post(`sending/hooks/${hook!.id}/remove`, {})).status).toBe(200)
  expect((await house.post('sending/mail/remove', {})).status).toBe(200)
  expect(await house.post('runs/1/report/mail', { to: ['dean@ostervik.example'] })).toMatchObject({ status: 409, body: { code: 'mail' } })
}, 60_000)
