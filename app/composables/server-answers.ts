/** Whether the server is there at all, asked beside everything else. */

/** Pause before it is asked again, ms. */
const AGAIN_MS = 1000

/** Whatever it says. */
export const serverAnswers = () => fetch('/api/me', { cache: 'no-store' }).then(() => true, () => false)

/** @param isAwaited whether anybody still waits for it @returns whether it answered while somebody did */
export async function serverToAnswer(isAwaited: () => boolean): Promise<boolean> {
  while (isAwaited()) {
    if (await serverAnswers()) return isAwaited()
    await new Promise(r => setTimeout(r, AGAIN_MS))
  }
  return false
}
