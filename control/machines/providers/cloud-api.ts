/** Machines from a cloud through its HTTP API. docs/nimbral-cloud.md describes the API. */
import { request } from 'undici'
import type { RegionOffer } from '../../../core/offers/machine-type'
import type { Clock } from '../../clock'
import { CallRate } from './call-rate'
import { faultOfAnswer, type CLOUD_ANSWERS, type CloudAnswer } from './cloud-answers'
import {
  ProviderSilent,
  type Bill,
  type MachineRequest,
  type OwnEnd,
  type Provider,
  type ProviderMachine,
  type OrderRefusal,
} from './contract'
import { codeOf, messageOf } from '../../../core/values/thrown'
import { objectOf, textOf } from '../../../core/values/untyped'

/** A call that takes longer is given up, ms. */
const CALL_TIMEOUT_MS = 10_000
/** A call turned away for coming too fast is made again so often. */
const TURNED_AWAY_TRIES = 5
/** Calls a second until the provider has said what it allows. */
const USUAL_LIMIT = { perSecond: 10, atOnce: 20 }
/** What marks the ref of a disk or an address. */
const ATTACHED = 'attached '
/** Disks and addresses are looked at this often: they are forgotten slowly, ms. */
const ATTACHED_MS = 5000
/** Most bills asked for in one call. */
const BILLS_AT_ONCE = 100

export interface CloudAccount {
  id: string
  name: string
  address: string
  key: string
  ownEnd?: OwnEnd
  mostBooting?: number
  callsPerSecond?: number
  callTimeoutMs?: number
}

// eslint-disable-next-line max-lines-per-function -- a closure: its functions share what it keeps
export function cloudApi(account: CloudAccount, clock: Pick<Clock, 'now' | 'after'>): Provider {
  const { id, name, address, key } = account
  const rate = new CallRate(
    account.callsPerSecond ? { perSecond: account.callsPerSecond, atOnce: account.callsPerSecond } : USUAL_LIMIT,
    clock,
  )
  let terms: CloudAnswer<'terms'> | undefined
  let attached: { at: number, list: CloudAnswer<'machines'> } = { at: Number.NEGATIVE_INFINITY, list: [] }

  const silent = (what: string) => new ProviderSilent(`${name} at ${address} ${what}`)

  async function once(method: string, path: string, body: unknown, headers: Record<string, string>) {
    await rate.turn()
    try {
      const timeout = account.callTimeoutMs ?? CALL_TIMEOUT_MS
      const answer = await request(address + path, {
        // The package lists methods by their names; these are among them.
        method: method as 'GET',
        headersTimeout: timeout,
        bodyTimeout: timeout,
        headers: {
          ...headers,
          authorization: `Bearer ${key}`,
          ...(body === undefined ? {} : { 'content-type': 'application/json' }),
        },
        ...(body === undefined ? {} : { body: JSON.stringify(body) }),
      })
      return {
        status: answer.statusCode,
        text: await answer.body.text(),
        retryAfterS: Number(answer.headers['retry-after']) || 1,
      }
    }
    catch (error) {
      throw silent(`does not answer: ${messageOf(error) || codeOf(error)}`)
    }
  }

  async function call(
    method: 'GET' | 'POST' | 'DELETE' | 'PATCH',
    path: string,
    body?: unknown,
    headers: Record<string, string> = {},
  ): Promise<{ status: number, body: unknown }> {
    for (let tries = 1; ; tries++) {
      const { status, text, retryAfterS } = await once(method, path, body, headers)
      if (status === 429 && tries < TURNED_AWAY_TRIES) {
        rate.pause(retryAfterS * 1000)
        continue
      }
      if (status === 401 || status === 403) throw silent('refuses the key of this account: enter another one.')
      if (status >= 500 || status === 429) throw silent(`answered ${status}`)
      try {
        return { status, body: text === '' ? undefined : JSON.parse(text) }
      }
      catch {
        throw silent(
          `answered ${status} with ${/^\s*</.test(text) ? 'HTML' : 'something that is not JSON'}: is this the address of its API?`,
        )
      }
    }
  }

  /** @returns the body, where it is what was agreed */
  function asAgreed<K extends keyof typeof CLOUD_ANSWERS>(kind: K, what: string, body: unknown): CloudAnswer<K> {
    const fault = faultOfAnswer(kind, body)
    if (fault) throw silent(`answered ${what} not as agreed: ${fault}`)
    // Held against the schema of that kind just now.
    return body as CloudAnswer<K>
  }

  async function get<K extends keyof typeof CLOUD_ANSWERS>(kind: K, path: string): Promise<CloudAnswer<K>> {
    const { status, body } = await call('GET', path)
    if (status !== 200) throw silent(`answered ${status} to GET ${path}`)
    return asAgreed(kind, `GET ${path}`, body)
  }

  return {
    id,
    name,
    way: 'cloud',
    ownEnd: account.ownEnd ?? 'natively',
    mostBooting: account.mostBooting ?? 50,
    async offers() {
      terms ??= await get('terms', '/v1/terms')
      const { currency, pricesAsOf, otherBills, attachments } = terms
      const [regions, types] = await Promise.all([
        get('regions', '/v1/regions'),
        get('types', '/v1/machine-types'),
      ])
      return regions.map((r): RegionOffer => ({
        region: r.name,
        types: types.map(t => ({ ...t, currency, pricesAsOf })),
        quota: { most: r.quota.machines, used: r.quota.used },
        bootS: r.bootSeconds,
        noStock: r.outOfStock ?? [],
        otherBills,
        ...(attachments ? { attachments } : {}),
      }))
    },
    async create({ idempotencyKey, ...wanted }: MachineRequest) {
      const { status, body } = await call('POST', '/v1/machines', wanted, { 'idempotency-key': idempotencyKey })
      if (status >= 400) {
        const { error, message } = asAgreed('refused', 'POST /v1/machines', body)
        return {
          refusal: {
            code: error,
            sentence: message,
            passing: error === 'quota' || error === 'no-stock',
          } satisfies OrderRefusal,
        }
      }
      return { ref: asAgreed('created', 'POST /v1/machines', body).id }
    },
    async list() {
      const machines = await get('machines', '/v1/machines')
      if (clock.now() - attached.at > ATTACHED_MS)
        attached = {
          at: clock.now(),
          list: (await get('machines', '/v1/attached')).map(a => ({ ...a, id: `${ATTACHED}${a.id}` })),
        }
      return [...machines, ...attached.list].map((m): ProviderMachine => ({
        ref: m.id,
        name: m.name,
        region: m.region,
        type: m.type,
        state: m.state,
        ...(m.kind ? { kind: m.kind } : {}),
        ...(m.reclaimAt ? { reclaimAt: Date.parse(m.reclaimAt) } : {}),
        ...(m.message ? { sentence: m.message } : {}),
      }))
    },
    async release(ref) {
      const { status, body } = await call(
        'DELETE',
        ref.startsWith(ATTACHED)
          ? `/v1/attached/${encodeURIComponent(ref.slice(ATTACHED.length))}`
          : `/v1/machines/${encodeURIComponent(ref)}`,
      )
      if (status >= 400 && status !== 404)
        throw silent(`will not end ${ref}: ${textOf(objectOf(body).message) || status}`)
    },
    async extend(ref, endsAfterS) {
      const { status, body } = await call('PATCH', `/v1/machines/${encodeURIComponent(ref)}`, { endsAfterS })
      if (status >= 400)
        throw silent(
          `does not move the end of ${ref}: ${textOf(objectOf(body).message) || status}`,
        )
    },
    async bills(refs) {
      const found: Bill[] = []
      for (let from = 0; from < refs.length; from += BILLS_AT_ONCE) {
        const part = await get(
          'bills',
          `/v1/bills?machines=${refs
            .slice(from, from + BILLS_AT_ONCE)
            .map(encodeURIComponent)
            .join(',')}`,
        )
        found.push(...part.map(b => ({ ref: b.machine, amount: b.amount, currency: b.currency, final: b.final })))
      }
      return found
    },
  }
}
