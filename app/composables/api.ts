/** Calls the server. Every failure is an {@link ApiProblem}: what happened and what to do. */
import { addressParts, hrefTo, type OperationId } from '~~/api/addresses'
import type { Answers } from '~~/api/answers'
import type { AddressOf, BodyOf, JsonOperation } from '~~/api/operations'
import type { ApiProblem } from '~~/api/views'
import { messageOf } from '~~/core/values/thrown'

export { hrefTo }

/** A read that has not answered by then is taken for not answered, ms; a window of a day takes seconds. */
const READ_MS = 60_000

export class ApiError extends Error {
  constructor(readonly problem: ApiProblem) {
    super(problem.sentence)
  }
}

export const SILENT: ApiProblem = {
  code: 'silent',
  sentence: 'Vornak’s server does not answer.',
  remedy: 'Runs under way go on by themselves. Check that the server is running; this page tries again.',
}

/** Address and body of an operation; what has nothing that must be given can be left out. */
export type Sent<K extends JsonOperation> = [BodyOf<K>] extends [never]
  ? Record<string, never> extends AddressOf<K>
    ? [at?: AddressOf<K>]
    : [at: AddressOf<K>]
  : Record<string, never> extends BodyOf<K>
    ? Record<string, never> extends AddressOf<K>
      ? [at?: AddressOf<K>, body?: BodyOf<K>]
      : [at: AddressOf<K>, body?: BodyOf<K>]
    : [at: AddressOf<K>, body: BodyOf<K>]

/** Asks for an operation of the API. @throws ApiError */
export async function api<K extends JsonOperation>(operation: K, ...[at, body]: Sent<K>): Promise<Answers[K]> {
  // The server answers as the table of the API says; tests hold it to that.
  return (await (await answered(operation, at, body)).json()) as Answers[K]
}

/** The text of an operation that answers with a file. @throws ApiError */
export async function apiText<K extends Exclude<OperationId, JsonOperation>>(
  operation: K,
  at: AddressOf<K>,
): Promise<string> {
  return (await answered(operation, at)).text()
}

/**
 * The same for anyone who comes by a link: with what that carries, and with nothing of the browser's own. @throws
 * ApiError
 */
export async function apiByLink(operation: LinkOperation, secret: string): Promise<Response> {
  return answered(operation, undefined, undefined, secret)
}
type LinkOperation = 'shared' | 'sharedWall' | 'sharedHtml' | 'sharedPdf' | 'sharedHar'

async function answered(
  operation: OperationId,
  at?: Parameters<typeof hrefTo>[1],
  body?: unknown,
  secret?: string,
): Promise<Response> {
  const { method } = addressParts(operation)
  let response: Response
  try {
    response = await fetch(hrefTo(operation, at), {
      method,
      ...(method === 'GET'
        ? {
            signal: AbortSignal.timeout(READ_MS),
            ...(secret === undefined ? {} : { headers: { authorization: `Bearer ${secret}` }, credentials: 'omit' as const }),
          }
        : { headers: { 'content-type': 'application/json' }, body: JSON.stringify(body ?? {}) }),
    })
  }
  catch {
    throw new ApiError(SILENT)
  }
  if (response.ok) return response
  // As above; a proxy in between may answer anything else.
  const problem = (await response.json().catch(() => undefined)) as ApiProblem | undefined
  if (problem?.code === 'sign-in' && secret === undefined) void toSignIn()
  throw new ApiError(problem?.sentence ? problem : { ...SILENT, sentence: `The server answered ${response.status}.` })
}

/** The session has ended, or somebody has made the first person meanwhile: who is here says who they are. */
export async function toSignIn(): Promise<void> {
  useMe().forget()
  const { path, fullPath } = useRouter().currentRoute.value
  if (path !== '/sign-in') await goTo({ path: '/sign-in', query: { to: fullPath } })
}

export function problemOf(error: unknown): ApiProblem {
  return error instanceof ApiError
    ? error.problem
    : { code: 'fault', sentence: messageOf(error), remedy: 'Load the page again.' }
}
