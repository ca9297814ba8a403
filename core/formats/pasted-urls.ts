/** Makes a journey, a target and a small plan from pasted addresses: ready to be approved and tried. */
import type { HttpJourney, Step } from '../journey/journey'
import type { Target } from '../journey/target'

/** Longest text searched for addresses, characters. */
const MOST_CHARACTERS = 200_000

export class PastedError extends Error {
  override name = 'PastedError'
  constructor(
    message: string,
    readonly remedy: string,
  ) {
    super(message)
  }
}

/** @param text addresses, one a line or with spaces between; what stands around them is left out @throws PastedError */
export function readUrls(text: string): URL[] {
  if (text.length > MOST_CHARACTERS)
    throw new PastedError(
      `The text has ${text.length} characters; at most ${MOST_CHARACTERS} are read.`,
      'Paste the addresses alone.',
    )
  const found = text
    .split(/[\s,<>"']+/)
    .filter(Boolean)
    .map((word) => {
      const address = /^https?:\/\//i.test(word)
        ? word
        : /^[\w.-]+(:\d+)?(\/|$)/.test(word) && /[.:]/.test(word.split('/')[0]!)
          ? `https://${word}`
          : undefined
      try {
        return address === undefined ? undefined : new URL(address)
      }
      catch {
        return undefined
      }
    })
    .filter(u => u !== undefined)
  if (found.length === 0)
    throw new PastedError('There is no address in it.', 'Paste one or several, like https://portal.example/timetable.')
  if (found.length > 200)
    throw new PastedError(`There are ${found.length} addresses in it; at most 200 are taken.`, 'Paste fewer.')
  return found
}

/** @returns parts without ids */
export function journeyOfUrls(urls: readonly URL[]): { journey: HttpJourney, target: Target } {
  const { origin, host } = urls[0]!
  const names = new Set<string>()
  const steps = urls.map((url): Step => {
    let name = decoded(url.pathname.split('/').filter(Boolean).pop() ?? 'Start')
    for (let n = 2; names.has(name); n++) name = `${name.replace(/ \d+$/, '')} ${n}`
    names.add(name)
    const query = [...url.searchParams]
    return {
      name,
      method: 'GET',
      url: url.origin === origin ? url.pathname : url.origin + url.pathname,
      ...(query.length > 0 ? { query } : {}),
      think: { kind: 'uniform', fromMs: 1000, toMs: 3000 },
      timeoutMs: 10_000,
      redirects: 5,
    }
  })
  return {
    journey: {
      schema: 'vornak-journey/1',
      kind: 'http',
      id: 'pasted',
      name: `Visit ${host}`,
      identity: 'kept',
      tags: ['pasted'],
      opening: [],
      round: steps,
      closing: [],
    },
    target: { id: 'pasted', name: host, environment: 'test', baseUrl: origin },
  }
}

function decoded(text: string): string {
  try {
    return decodeURIComponent(text)
  }
  catch {
    return text
  }
}
