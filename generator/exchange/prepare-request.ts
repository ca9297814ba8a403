/** Works a step out into the request its users will send. */
import { addressOf, type Step, type Target } from '../../core/journey/journey'
import type { PreparedRequest } from './exchange'

/** Marks by which a target's owner recognises a run's requests, and by which its counts can be held against ours. */
export interface Marking {
  runId: string
  /** Requests outside the load: a rehearsal. */
  rehearsal?: boolean
}

export function prepareRequest(step: Step, target: Pick<Target, 'baseUrl'>, marking: Marking): PreparedRequest {
  const address = addressOf(target, step)
  const own = Object.entries(step.headers ?? {})
  const names = new Set(own.map(([name]) => name.toLowerCase()))
  const headers = own.flat()
  const add = (name: string, value: string) => { if (!names.has(name)) headers.push(name, value) }
  add('user-agent', 'Vornak')
  add('vornak-run', marking.runId)
  add('vornak-step', encodeURIComponent(step.name))
  if (marking.rehearsal) add('vornak-rehearsal', '1')
  if (step.body !== undefined) add('content-type', 'application/json')
  return { origin: address.origin, path: address.pathname + address.search, method: step.method, headers, body: step.body, timeoutMs: step.timeoutMs, wantsBody: step.expectText !== undefined }
}
