/** What was removed is told, and can be brought back with all that belonged to it. */
import type { AddressOf } from '~~/api/operations'

/** How long the way back is offered, ms; the server keeps it longer. */
const OFFERED_MS = 12_000

/** @param after what is done once it is gone @param back and once it is back; left out: the same */
export function useRemoval(after: () => unknown, back: () => unknown = after) {
  const toast = useToast()
  return async (kind: AddressOf<'restore'>['kind'], id: string, name: string): Promise<void> => {
    await after()
    toast.add({
      title: `${name} was removed.`,
      duration: OFFERED_MS,
      actions: [
        {
          label: 'Bring it back',
          onClick: () => void api('restore', { kind, removed: id }).then(back, tell),
        },
      ],
    })
  }

  function tell(error: unknown): void {
    const { sentence, remedy } = problemOf(error)
    toast.add({ title: sentence, description: remedy, color: 'error' })
  }
}
