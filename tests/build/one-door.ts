/** Asks every operation of the API with something that opens one thing alone. */
import { addressParts, type OperationId } from '../../api/addresses'
import { OPERATIONS, PATH_PARAMETERS, type Operation } from '../../api/operations'
import type { Bearer } from '../../api/roles'

/** By operation: whether it was refused for the one who asked, and whether it should have been. */
export async function refusals(
  url: string,
  secret: string,
  bearer: Bearer,
  run: number,
): Promise<{ id: OperationId, isRefused: boolean, isOthers: boolean }[]> {
  const found = []
  for (const id of Object.keys(OPERATIONS) as OperationId[]) {
    const { method, path } = addressParts(id)
    const at = path.replace(/\{(\w+)\}/g, (_, name: string) => {
      if (name === 'run') return String(run)
      return PATH_PARAMETERS[name as keyof typeof PATH_PARAMETERS].type === 'integer' ? '1' : 'few'
    })
    const { by, role }: Operation = OPERATIONS[id]
    const answer = await fetch(`${url}/api${at}`, {
      method,
      headers: { authorization: `Bearer ${secret}`, 'content-type': 'application/json' },
      ...(method === 'GET' ? {} : { body: '{}' }),
    })
    const { code } = (await answer.json().catch(() => ({}))) as { code?: string }
    found.push({
      id,
      isRefused: answer.status === 403 && code === 'role',
      isOthers: role !== 'anyone' && by?.includes(bearer) !== true,
    })
  }
  return found
}
