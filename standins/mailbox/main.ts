/**
 * Stand-in for a mail server: takes every mail it is sent, keeps the latest, and shows them on a page. `PORT`: of the
 * page; `SMTP_PORT`: where mails come in; `SMTP_USER` and `SMTP_PASSWORD`: who may send, else everybody.
 */
import { createServer } from 'node:http'
import { SMTPServer } from 'smtp-server'

interface Kept {
  at: string
  from: string
  to: string[]
  /** As it came (RFC 5322). */
  text: string
}

const MOST_KEPT = 100
const MOST_BYTES = 20 * 1024 * 1024
const { PORT = '4741', SMTP_PORT = '4740', SMTP_USER, SMTP_PASSWORD } = process.env
const kept: Kept[] = []

const mails = new SMTPServer({
  disabledCommands: ['STARTTLS'],
  authOptional: SMTP_USER === undefined,
  allowInsecureAuth: true,
  size: MOST_BYTES,
  disableReverseLookup: true,
  onAuth({ username, password }, _, answer) {
    if (username === SMTP_USER && password === SMTP_PASSWORD) answer(null, { user: username })
    else answer(new Error('name and password do not belong together'))
  },
  onData(stream, { envelope }, answer) {
    const parts: Buffer[] = []
    stream.on('data', (part: Buffer) => parts.push(part))
    stream.on('end', () => {
      const from = envelope.mailFrom === false ? '' : envelope.mailFrom.address
      const to = envelope.rcptTo.map(r => r.address)
      kept.unshift({ at: new Date().toISOString(), from, to, text: Buffer.concat(parts).toString('latin1') })
      kept.length = Math.min(kept.length, MOST_KEPT)
      answer(stream.sizeExceeded ? new Error('too large') : null)
    })
  },
})
// One that hangs up is no reason to end.
mails.on('error', () => undefined)
mails.listen(Number(SMTP_PORT), '127.0.0.1')

/** All of them as JSON; at `/` their heads as text. */
const page = createServer((request, answer) => {
  if (request.url === '/mails') return void answer.setHeader('content-type', 'application/json').end(JSON.stringify(kept))
  const heads = kept.map(m => `${m.at}  to ${m.to.join(', ')}\n${m.text.split('\r\n\r\n')[0]!}\n`)
  answer.setHeader('content-type', 'text/plain; charset=utf-8').end(heads.join('\n') || 'No mail has come yet.\n')
}).listen(Number(PORT), '127.0.0.1')

for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.on(signal, () => {
    page.close()
    mails.close()
    process.exit(0)
  })
