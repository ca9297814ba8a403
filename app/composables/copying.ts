/** Copies text, also where the browser's clipboard interface is absent (plain HTTP), and says so. */
import { useClipboard } from '@vueuse/core'

export function useCopy() {
  const { copy } = useClipboard({ legacy: true })
  const toast = useToast()
  /** @param what was copied, as the sentence says it: “12 rows as CSV” */
  return async (text: string, what: string): Promise<void> => {
    await copy(text)
    toast.add({ title: `Copied ${what}.`, duration: 2500 })
  }
}
