/**
 * Fetches a page of figures: only from hosts the target's owner has agreed to, within bounds of time and size, without
 * following it elsewhere. So the server is no way into its own network.
 */
import { lookup } from 'node:dns'
import { isIP, type LookupFunction } from 'node:net'
import { Agent } from 'undici'
import type { Source } from '../../core/target/source'
import { addressFault, approvedOf } from '../../core/journey/approved-address'
import { hostOf, type Target } from '../../core/journey/target'
import { SourceTrouble } from './trouble'
import { objectOf } from '../../core/values/untyped'

export interface FetchedPage {
  text: string
  type: string
  /** Header `date`. */
  date: string | undefined
  /** On this process's clock, ms since 1970. */
  askedAt: number
  gotAt: number
}

/** A page that takes longer is given up, ms. */
const TIMEOUT_MS = 5000
/** A larger one is not read, bytes. */
const MOST_BYTES = 20 * 1024 * 1024
const METRICS_TYPES = 'application/openmetrics-text; version=1.0.0, text/plain; version=0.0.4; q=0.5'
/** Of a page that refuses, so much is looked at for a reason. */
const MOST_REASON = 20_000

/** Reads pages of one target. */
export class PageFetcher {
  private readonly agent: Agent

  /** @param secrets of the target, by name */
  constructor(
    private readonly target: Pick<Target, 'name' | 'approval' | 'trust'>,
    private readonly secrets: Readonly<Record<string, string>>,
    private readonly now: () => number,
  ) {
    const { approval, trust } = target
    this.agent = new Agent({
      connect: { lookup: approvedLookup(approval?.addressRanges ?? []), ...(trust ? { ca: trust } : {}) },
      connectTimeout: TIMEOUT_MS,
      headersTimeout: TIMEOUT_MS,
      bodyTimeout: TIMEOUT_MS,
      connections: 2,
    })
  }

  /** @throws SourceTrouble */
  async fetch({ address, kind, authorization }: Pick<Source, 'address' | 'kind' | 'authorization'>): Promise<FetchedPage> {
    const url = new URL(address)
    this.refuseElsewhere(url)
    const askedAt = this.now()
    // Over everything: a page whose bytes trickle in is one that hangs.
    const signal = AbortSignal.timeout(TIMEOUT_MS)
    try {
      const answer = await this.agent.request({
        origin: url.origin,
        path: url.pathname + url.search,
        method: 'GET',
        signal,
        headers: {
          accept: kind === 'metrics' ? METRICS_TYPES : 'application/json',
          'user-agent': 'vornak',
          ...(authorization ? { authorization: this.filled(authorization) } : {}),
        },
      })
      const gotAt = this.now()
      const { date, 'content-type': type } = answer.headers
      if (answer.statusCode !== 200) {
        const told = await upTo(answer.body, MOST_REASON).catch(() => undefined)
        throw answered(url, answer.statusCode, told === undefined ? undefined : reasonIn(told))
      }
      const text = await upTo(answer.body, MOST_BYTES)
      if (text === undefined)
        throw new SourceTrouble('page', `${url.host} sends more than ${MOST_BYTES / 1024 / 1024} MB.`, 'Ask for less of it.')
      return { text, type: String(type ?? ''), date: typeof date === 'string' ? date : undefined, askedAt, gotAt }
    }
    catch (error) {
      if (error instanceof SourceTrouble) throw error
      throw new SourceTrouble(
        'connection',
        signal.aborted ? `${url.host} has not answered whole within ${TIMEOUT_MS / 1000} s.` : `${url.host}: ${wordsOf(error)}.`,
        'Check the address, and whether this computer can reach it.',
      )
    }
  }

  async close(): Promise<void> {
    await this.agent.destroy()
  }

  private refuseElsewhere(url: URL): void {
    const { name, approval } = this.target
    const host = hostOf(url)
    const trouble = (sentence: string, remedy: string) => new SourceTrouble('approval', sentence, remedy)
    if (!approval) throw trouble(`${name} is not approved: nothing of it is read.`, 'Record the owner’s approval.')
    if (![...approval.hosts, ...(approval.readFrom ?? [])].includes(host))
      throw trouble(
        `The owner has not agreed that figures are read from ${host}.`,
        'Add it to the approval, under “Figures may be read from”.',
      )
    const bare = url.hostname.replace(/^\[|\]$/g, '')
    const fault = isIP(bare) ? addressFault(host, bare, approval) : undefined
    if (fault) throw trouble(`${fault}.`, 'Name what may be read.')
  }

  private filled(text: string): string {
    return text.replace(/\{\{\s*target\.([A-Za-z_][\w-]*)\s*\}\}/g, (_, name: string) => {
      const value = Object.hasOwn(this.secrets, name) ? this.secrets[name] : undefined
      if (value === undefined)
        throw new SourceTrouble('approval', `There is no secret ${name} of the target.`, 'Give it, and save the target first.')
      return value
    })
  }
}

/** undefined: there is more, and no more is read. */
async function upTo(body: AsyncIterable<Buffer>, most: number): Promise<string | undefined> {
  let text = ''
  const decoder = new TextDecoder()
  for await (const chunk of body) {
    text += decoder.decode(chunk, { stream: true })
    if (text.length > most) return undefined
  }
  return text
}

/** Why a server refuses, where it says so in the way of query APIs. */
function reasonIn(text: string): string | undefined {
  try {
    const { error } = objectOf(JSON.parse(text))
    return typeof error === 'string' ? error.slice(0, 300) : undefined
  }
  catch {
    return undefined
  }
}

function answered(url: URL, status: number, reason: string | undefined): SourceTrouble {
  const why =
    status === 401 || status === 403
      ? 'Give what it asks for under “Authorization”.'
      : status >= 300 && status < 400
        ? 'Write the address it leads to: nothing is followed.'
        : reason === undefined
          ? 'Check the path.'
          : 'Correct what it names.'
  return new SourceTrouble('answer', `${url.host}${url.pathname} answers ${status}${reason === undefined ? '' : `: ${reason}`}.`, why)
}

function wordsOf(error: unknown): string {
  // Errors of Node and of the package; each of these may be missing.
  const { code, message, cause } = error as NodeJS.ErrnoException & { cause?: Error }
  if (code === 'ECONNREFUSED') return 'nobody listens there'
  if (code === 'ENOTFOUND' || code === 'EAI_AGAIN') return 'its name is not known'
  return message || cause?.message || code || 'cannot be reached'
}

/** Names stand only for addresses the approval lets them stand for. */
function approvedLookup(addressRanges: readonly string[]): LookupFunction {
  return (host, options, done) => {
    lookup(host, { ...options, all: true }, (error, addresses) => {
      if (error) return done(error, '', 0)
      const { good, fault } = approvedOf(host, addresses, { addressRanges })
      const [first] = good
      if (!first) return done(new Error(fault), '', 0)
      if (options.all) return done(null, good)
      done(null, first.address, first.family)
    })
  }
}
