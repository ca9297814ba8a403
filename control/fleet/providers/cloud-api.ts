/** Machines from a cloud through its HTTP API. docs/nimbral-cloud.md describes the API. */
import { request } from 'undici'
import type { MachineType, RegionOffer } from '../../../core/plan/document'
import { ProviderSilent, type MachineRequest, type Provider, type ProviderMachine, type Refusal } from './contract'

/** A call that takes longer is given up, ms. */
const CALL_TIMEOUT_MS = 10_000

interface ApiRegion { name: string, bootSeconds: number, quota: { machines: number, used: number } }
interface ApiMachine { id: string, name: string, region: string, type: string, state: ProviderMachine['state'] }

export function cloudApi(id: string, name: string, address: string): Provider {
  async function call(method: 'GET' | 'POST' | 'DELETE', path: string, body?: unknown, headers: Record<string, string> = {}): Promise<{ status: number, body: unknown }> {
    try {
      const answer = await request(address + path, {
        method, headersTimeout: CALL_TIMEOUT_MS, bodyTimeout: CALL_TIMEOUT_MS,
        headers: { ...headers, ...(body === undefined ? {} : { 'content-type': 'application/json' }) },
        ...(body === undefined ? {} : { body: JSON.stringify(body) }),
      })
      const text = await answer.body.text()
      if (answer.statusCode >= 500) throw new Error(`answered ${answer.statusCode}`)
      return { status: answer.statusCode, body: text === '' ? undefined : JSON.parse(text) }
    }
    catch (error) {
      throw new ProviderSilent(`${name} at ${address} does not answer: ${(error as Error).message || (error as NodeJS.ErrnoException).code}`)
    }
  }

  return {
    id, name,
    async offers() {
      const [regions, types] = await Promise.all([call('GET', '/v1/regions'), call('GET', '/v1/machine-types')])
      return (regions.body as ApiRegion[]).map((r): RegionOffer => ({ region: r.name, types: types.body as MachineType[], quota: { most: r.quota.machines, used: r.quota.used }, bootS: r.bootSeconds }))
    },
    async create({ idempotencyKey, ...wanted }: MachineRequest) {
      const { status, body } = await call('POST', '/v1/machines', wanted, { 'idempotency-key': idempotencyKey })
      if (status >= 400) {
        const { error, message } = body as { error: string, message: string }
        return { refusal: { code: error, sentence: message } satisfies Refusal }
      }
      return { ref: (body as ApiMachine).id }
    },
    async list() {
      const { body } = await call('GET', '/v1/machines')
      return (body as ApiMachine[]).map(m => ({ ref: m.id, name: m.name, region: m.region, type: m.type, state: m.state }))
    },
    async release(ref) {
      await call('DELETE', `/v1/machines/${encodeURIComponent(ref)}`)
    },
  }
}
