/** Whether the server is there at all, asked beside everything else. */

/** Pause before it is asked again, ms. */
const AGAIN_MS = 1000

/** Whatever it says. */
export const serverAnswers = () => fetch('/api/me', { cache: 'no-store' }).then(() => true, () => false)

let waiting: Promise<void> | undefined

/** Resolves once it answers. However many wait for that, it is asked by one. */
export function serverToAnswer(): Promise<void> {
  return (waiting ??= untilItAnswers().finally(() => {
    waiting = undefined
  }))
}

async function untilItAnswers(): Promise<void> {
  while (!(await serverAnswers())) await new Promise(r => setTimeout(r, AGAIN_MS))
}
