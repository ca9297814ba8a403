/** Calls the server. Every failure is an {@link ApiProblem}: what happened and what to do. */
import type { ApiProblem } from '~~/api/views'

export class ApiError extends Error {
  constructor(readonly problem: ApiProblem) {
    super(problem.sentence)
  }
}

const SILENT: ApiProblem = {
  code: 'silent',
  sentence: 'Vornak’s server does not answer.',
  remedy: 'Runs under way go on by themselves. Check that the server is running; this page tries again.',
}

export async function api<T>(path: string, method: 'GET' | 'POST' | 'PUT' = 'GET', body?: object): Promise<T> {
  let response: Response
  try {
    response = await fetch(`/api/${path}`, {
      method,
      ...(body || method !== 'GET'
        ? { headers: { 'content-type': 'application/json' }, body: JSON.stringify(body ?? {}) }
        : {}),
    })
  }
  catch {
    throw new ApiError(SILENT)
  }
  if (response.ok) return (await response.json()) as T
  const problem = (await response.json().catch(() => undefined)) as ApiProblem | undefined
  throw new ApiError(problem?.sentence ? problem : { ...SILENT, sentence: `The server answered ${response.status}.` })
}

export function problemOf(error: unknown): ApiProblem {
  return error instanceof ApiError
    ? error.problem
    : { code: 'fault', sentence: (error as Error).message, remedy: 'Load the page again.' }
}
