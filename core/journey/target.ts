/** The system under load: where it is, what it is told, and what its owner has agreed to. */
import type { TargetPrices } from '../target/cost'
import type { Source } from '../target/source'

/** What the owner of a target has agreed to. */
export interface Approval {
  /** `host:port` pairs that may be sent to; nothing else is, not even after a redirect. */
  hosts: string[]
  /** Private addresses that names of these hosts may stand for: ranges (`10.1.0.0/16`) or single ones. */
  addressRanges?: string[]
  /** Further `host:port` pairs where the target's own figures may be read; no load goes there. */
  readFrom?: string[]
  /** Most users at once. */
  mostUsers: number
  /** Moment it ends, ISO 8601. */
  until: string
  /** Hours of the day in which load is agreed, `HH:MM` in an IANA time zone; without them, at all hours. */
  window?: { from: string, to: string, zone: string }
  contact: string
}

/** What an approval usually says at first: the target's own host, a hundred users, a week. @param now ms since 1970 */
export function proposedApproval({ baseUrl }: { baseUrl: string }, now: number): Approval {
  const url = URL.canParse(baseUrl) ? new URL(baseUrl) : undefined
  return {
    hosts: url ? [`${url.hostname}:${url.port || (url.protocol === 'https:' ? '443' : '80')}`] : [],
    mostUsers: 100,
    until: new Date(now + 7 * 86_400_000).toISOString(),
    contact: '',
  }
}

export const ENVIRONMENTS = ['test', 'staging', 'production'] as const
export type Environment = (typeof ENVIRONMENTS)[number]

export interface Target {
  id: string
  name: string
  environment: Environment
  /** Paths of steps are put behind it. */
  baseUrl: string
  /** Further base addresses by name: a step's URL may begin with `{{target.NAME}}`. */
  addresses?: Record<string, string>
  /** Values a journey's templates name as `target.NAME`. */
  variables?: Record<string, string>
  /** Names of values that are sealed: named in templates like variables, and never shown. */
  secretNames?: string[]
  /** PEM of a certificate authority to trust besides the usual ones. */
  trust?: string
  /** Name of the metric of its answers' `Server-Timing` that is the time they took inside. */
  insideName?: string
  /** Where its own figures are read. */
  sources?: Source[]
  /** What it costs its owner itself. */
  prices?: TargetPrices
  /** None: nothing may be sent yet. */
  approval?: Approval
}

/** Behind a base address comes the path; a whole URL stands for itself. @throws TypeError when it is none */
export function addressOf(target: Pick<Target, 'baseUrl'>, url: string): URL {
  return /^https?:\/\//i.test(url)
    ? new URL(url)
    : new URL(target.baseUrl.replace(/\/+$/, '') + '/' + url.replace(/^\/+/, ''))
}

/** `host:port` of an address, with the scheme's usual port filled in. */
export function hostOf(address: URL): string {
  return `${address.hostname}:${address.port || (address.protocol === 'https:' ? '443' : '80')}`
}

/** Everything templates may name as `target.NAME`, secrets by their names alone. */
export function targetValueNames(target: Pick<Target, 'addresses' | 'variables' | 'secretNames'>): string[] {
  return [
    'base',
    ...Object.keys(target.addresses ?? {}),
    ...Object.keys(target.variables ?? {}),
    ...(target.secretNames ?? []),
  ]
}

/** The same with their values. @param secrets by name, where they are known */
export function targetValues(
  target: Pick<Target, 'baseUrl' | 'addresses' | 'variables'>,
  secrets: Readonly<Record<string, string>> = {},
): Record<string, string> {
  return { base: target.baseUrl.replace(/\/+$/, ''), ...target.addresses, ...target.variables, ...secrets }
}

/**
 * Whether a moment lies in the hours agreed. A window that ends before it begins goes past midnight.
 *
 * @param atMs ms since 1970
 */
export function withinWindow(window: NonNullable<Approval['window']>, atMs: number): boolean {
  const now = new Intl.DateTimeFormat('en-GB', {
    hour: '2-digit',
    minute: '2-digit',
    hourCycle: 'h23',
    timeZone: window.zone,
  }).format(atMs)
  return window.from <= window.to ? window.from <= now && now < window.to : now >= window.from || now < window.to
}
