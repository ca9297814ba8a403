/**
 * `har`: reading and reviewing a browser's capture of 50 MB, against the five seconds an engineer waits without
 * wondering.
 */
import { readHar } from '../core/formats/har'
import { reviewHar, usualChoices } from '../core/formats/har-to-journey'
import { seededRandom } from '../core/random/seeded'
import { tell } from './measure'

const GOAL_MS = 5000

export function benchHar(quick: boolean): void {
  const text = capture(quick ? 2 : 50)
  const began = performance.now()
  const read = readHar(text)
  const review = reviewHar(read, usualChoices(read))
  const ms = performance.now() - began
  tell({
    bench: 'har',
    case: `${Math.round(text.length / 1024 / 1024)} MB, ${review.requests} requests, ${review.values.length} values`,
    value: ms,
    unit: 'ms',
    reference: GOAL_MS,
    ratio: ms / GOAL_MS,
    goal: '≤ 1',
  })
}

/** An hour of a web application: pages, files, and an API whose answers name what is asked next. */
function capture(megabytes: number): string {
  const random = seededRandom(5)
  const id = () =>
    Math.floor(random() * 2 ** 48)
      .toString(16)
      .padStart(12, '0')
  const entries: object[] = []
  let bytes = 0
  let last = id()
  for (let i = 0; bytes < megabytes * 1024 * 1024; i++) {
    const isFile = i % 5 > 2
    const next = id()
    const text = isFile
      ? `/* file ${i} */${'.a{color:red}'.repeat(1500)}`
      : JSON.stringify({
          next,
          items: Array.from({ length: 220 }, (_, n) => ({
            id: id(),
            title: `Item ${n} of answer ${i}`,
            price: Math.round(random() * 1e4) / 100,
          })),
        })
    bytes += text.length
    entries.push({
      startedDateTime: new Date(Date.UTC(2026, 8, 1) + i * 700).toISOString(),
      time: 40,
      pageref: 'page_1',
      request: {
        method: isFile || i % 2 ? 'GET' : 'POST',
        url: isFile ? `https://shop.example/files/${i}.css` : `https://shop.example/api/items/${last}?page=${i % 9}`,
        headers: [
          { name: 'accept', value: '*/*' },
          { name: 'x-token', value: last },
        ],
        ...(isFile || i % 2
          ? {}
          : { postData: { mimeType: 'application/json', text: JSON.stringify({ item: last }) } }),
      },
      response: {
        status: 200,
        headers: [{ name: 'content-type', value: isFile ? 'text/css' : 'application/json' }],
        content: { size: text.length, mimeType: isFile ? 'text/css' : 'application/json', text },
      },
    })
    if (!isFile) last = next
  }
  return JSON.stringify({
    log: {
      version: '1.2',
      creator: { name: 'bench', version: '1' },
      pages: [{ id: 'page_1', title: 'Shop' }],
      entries,
    },
  })
}
