/** Programs that are told of runs: their addresses, which a keeper gives, and how they are told. */
import { Agent, request } from 'undici'
import type { Tells } from '../../core/dispatch/run-event'
import { ControlError, notFound } from '../errors'
import { newSecret } from '../people/secrets'
import type { DispatchStore, Hook } from '../store/dispatches'
import type { Sealing } from '../store/sealing'
import { signatureHeaders } from './signature'

/** Nobody waits longer for a program to take it, ms. */
const TIMEOUT_MS = 10_000
const CONTENT_TYPE = 'application/json'

export class HookSender {
  private readonly agent = new Agent({ headersTimeout: TIMEOUT_MS, bodyTimeout: TIMEOUT_MS })

  constructor(
    private readonly store: DispatchStore,
    private readonly sealing: Sealing,
  ) {}

  all(): Hook[] {
    return this.store.hooks().map(({ sealed: _, ...hook }) => hook)
  }

  /** @throws ControlError when there is none */
  of(id: number): Hook {
    const { sealed: _, ...hook } = this.stored(id)
    return hook
  }

  /** @returns the key it is signed with, which is shown once @throws ControlError */
  add(of: { name: string, address: string, tells: Tells[] }, now: number): { id: number, secret: string } {
    const name = of.name.trim()
    if (!URL.canParse(of.address) || !/^https?:$/.test(new URL(of.address).protocol))
      throw new ControlError(
        'form',
        400,
        `“${of.address.slice(0, 100)}” is no address of a program.`,
        'Write one like https://gate.example/runs.',
      ).at('address')
    if (new URL(of.address).username !== '')
      throw new ControlError('form', 400, 'The address carries a name or password.', 'Leave them out: what is sent is signed.').at('address')
    if (this.store.hooks().some(h => h.name === name))
      throw new ControlError('in-use', 409, `There is a hook ${name} already.`, 'Choose another name.').at('name')
    const secret = newSecret()
    const sealed = this.sealing.seal(secret, placeOf(of.address))
    return { id: this.store.addHook({ ...of, name, createdAt: now }, sealed), secret }
  }

  /** @throws ControlError when there is none */
  remove(id: number): void {
    if (!this.store.removeHook(id)) throw notFound(`hook ${id}`)
  }

  /** @param now ms since 1970 @throws Error in words */
  async send(id: number, content: string, now: number): Promise<void> {
    const hook = this.stored(id)
    const key = this.sealing.unseal(hook.sealed, placeOf(hook.address))
    const created = Math.floor(now / 1000)
    const signed = { method: 'POST', address: hook.address, contentType: CONTENT_TYPE, content, created, keyId: hook.name }
    const answer = await request(hook.address, {
      dispatcher: this.agent,
      method: 'POST',
      headers: { 'content-type': CONTENT_TYPE, ...signatureHeaders(signed, key) },
      body: content,
      signal: AbortSignal.timeout(TIMEOUT_MS),
    })
    await answer.body.dump()
    // It is not followed elsewhere: this address was agreed to.
    if (answer.statusCode < 200 || answer.statusCode > 299) throw new Error(`It answered ${answer.statusCode}.`)
  }

  close(): Promise<void> {
    return this.agent.destroy()
  }

  private stored(id: number) {
    const hook = this.store.hooks().find(h => h.id === id)
    if (!hook) throw notFound(`hook ${id}`)
    return hook
  }
}

/** A key is sealed for one address. */
const placeOf = (address: string) => `hook/${address}`
