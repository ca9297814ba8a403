/** The mail server reports go through: kept once for the house, its password sealed. */
import nodemailer, { type Transporter } from 'nodemailer'
import { ControlError } from '../errors'
import type { FactStore } from '../store/facts'
import type { Sealing } from '../store/sealing'
import { fromStore } from '../store/from-store'

export interface MailServer {
  host: string
  port: number
  /** `tls`: from the beginning. `starttls`: it must be offered. `none`: in the clear. */
  security: 'tls' | 'starttls' | 'none'
  /** Left out: nobody signs in. */
  user?: string
  /** Address mails come from. */
  from: string
}

export interface Mail {
  to: string
  subject: string
  text: string
  html: string
  attachments: { filename: string, content: Uint8Array, contentType: string }[]
}

const SERVER = 'mail-server'
const PASSWORD = 'mail-password'
/** Nobody waits longer for it, ms. */
const TIMEOUT_MS = 20_000

export class MailSender {
  constructor(
    private readonly facts: FactStore,
    private readonly sealing: Sealing,
  ) {}

  get server(): MailServer | undefined {
    const kept = this.facts.get(SERVER)
    return kept === undefined ? undefined : fromStore<MailServer>(kept)
  }

  get hasPassword(): boolean {
    return this.facts.get(PASSWORD) !== undefined
  }

  /** @param password left out: that of before, for the same server and user @throws ControlError */
  setServer(server: MailServer, password: string | undefined): void {
    const { server: before } = this
    const isSame = before?.host === server.host && before.port === server.port && before.user === server.user
    if (server.user !== undefined && password === undefined && !(isSame && this.hasPassword))
      throw new ControlError('form', 400, `The password of ${server.user} is missing.`, 'Enter it; for another server it is entered anew.').at('password')
    this.facts.set(SERVER, JSON.stringify(server))
    if (server.user === undefined) this.facts.drop(PASSWORD)
    else if (password !== undefined) this.facts.set(PASSWORD, this.sealing.seal(password, placeOf(server)).toString('base64'))
  }

  dropServer(): void {
    this.facts.drop(SERVER)
    this.facts.drop(PASSWORD)
  }

  /** @throws Error in words of the library, or of the server */
  async send(mail: Mail): Promise<void> {
    const { server } = this
    if (!server) throw new Error('No mail server is known.')
    const transport = this.transportTo(server)
    try {
      await transport.sendMail({
        from: server.from,
        ...mail,
        attachments: mail.attachments.map(a => ({ ...a, content: Buffer.from(a.content) })),
      })
    }
    finally {
      transport.close()
    }
  }

  private transportTo(server: MailServer): Transporter {
    const { host, port, security, user } = server
    const sealed = this.facts.get(PASSWORD)
    return nodemailer.createTransport({
      host,
      port,
      secure: security === 'tls',
      requireTLS: security === 'starttls',
      ignoreTLS: security === 'none',
      connectionTimeout: TIMEOUT_MS,
      greetingTimeout: TIMEOUT_MS,
      socketTimeout: TIMEOUT_MS,
      disableFileAccess: true,
      disableUrlAccess: true,
      ...(user === undefined || sealed === undefined
        ? {}
        : { auth: { user, pass: this.sealing.unseal(Buffer.from(sealed, 'base64'), placeOf(server)) } }),
    })
  }
}

/** A password is sealed for one server and user. */
const placeOf = ({ host, port, user = '' }: MailServer) => `mail/${user}@${host}:${port}`
