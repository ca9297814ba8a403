/** Answers that overtake one another. */
import { newestOnly } from '../../app/composables/newest-only'

it('takes the answer to the newest question alone, in whatever order they come, and no error of an older one', async () => {
  const newest = newestOnly()
  const settle: ((how: 'answer' | 'error') => void)[] = []
  const ask = (n: number) =>
    newest(
      () =>
        new Promise<number>((resolve, reject) => {
          settle.push(how => (how === 'answer' ? resolve(n) : reject(new Error(`${n}`))))
        }),
    )
  const [first, second, third] = [ask(1), ask(2), ask(3)]
  settle[2]!('answer')
  settle[0]!('answer')
  settle[1]!('error')
  expect(await Promise.all([first, second, third])).toEqual([undefined, undefined, 3])
  const failing = ask(4)
  settle[3]!('error')
  await expect(failing).rejects.toThrow('4')
})
