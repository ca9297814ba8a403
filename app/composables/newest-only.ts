/**
 * Of questions that are asked one after the other only the newest counts: the answer to an older one may come later,
 * and would bring back what was.
 *
 * @returns asks; undefined (never an error) when something newer was asked meanwhile
 */
export function newestOnly() {
  let asked = 0
  return async <T>(ask: (isNewest: () => boolean) => Promise<T>): Promise<T | undefined> => {
    const mine = ++asked
    try {
      const answer = await ask(() => mine === asked)
      return mine === asked ? answer : undefined
    }
    catch (error) {
      if (mine === asked) throw error
      return undefined
    }
  }
}
