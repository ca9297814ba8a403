/** Private sites: servers of one's own, described by one template and a table of what differs from it. */

/** How Vornak signs in. A key by its name in the key room; the agent is the one of Vornak's own process. */
export type SignIn = { kind: 'key', key: string } | { kind: 'agent' }

/** A host one goes through. It is signed in to in the same way. */
export interface JumpHost {
  address: string
  port: number
  user: string
}

export interface HostTemplate {
  port: number
  user: string
  signIn: SignIn
  jump?: JumpHost
  /** Working directory: what Vornak puts on a host is below it, and is removed from it. */
  folder: string
  /** Command that starts Node there. */
  node: string
  /** Address of a proxy generators go out through. */
  proxy?: string
  /** Further variables of the generator's environment. */
  environment?: Record<string, string>
}

/** A host; what is left out is the template's. */
export interface Host {
  name: string
  address: string
  port?: number
  user?: string
  key?: string
  folder?: string
  /** Cores generators may use; left out: all. */
  cores?: number
  /** Who needs it for themselves, and until when (ISO 8601). */
  reservedBy?: string
  reservedUntil?: string
}

export interface Site {
  id: string
  /** Location code it is suggested with. */
  code: string
  name: string
  template: HostTemplate
  hosts: Host[]
}

/** A host with everything settled. */
export interface SettledHost extends Omit<HostTemplate, 'signIn'> {
  site: string
  name: string
  address: string
  signIn: SignIn
  cores?: number
}

export const TRY_STEPS = ['reach', 'hostKey', 'signIn', 'runtime', 'disk', 'clock', 'ports', 'idle'] as const
export type TryStep = (typeof TRY_STEPS)[number]
export const STEP_WORDS: Record<TryStep, string> = {
  reach: 'reach',
  hostKey: 'host key',
  signIn: 'sign in',
  runtime: 'runtime',
  disk: 'disk',
  clock: 'clock',
  ports: 'ports',
  idle: 'idle CPU',
}

/** How a host came through being tried. Steps after one that failed are not there. */
export interface HostTry {
  at: number
  steps: { step: TryStep, ok: boolean, said: string, remedy?: string }[]
  facts?: { node: string, cores: number, memoryMb: number }
}

/** A busy host is told, and may be used: it may be idle when it is needed. */
export function hostOk(attempt: HostTry | undefined): boolean {
  return (
    attempt !== undefined &&
    attempt.steps.length === TRY_STEPS.length &&
    attempt.steps.every(s => s.ok || s.step === 'idle')
  )
}

export function settleHost(site: Site, host: Host): SettledHost {
  const { signIn, ...template } = site.template
  return {
    ...template,
    site: site.id,
    name: host.name,
    address: host.address,
    signIn: host.key ? { kind: 'key', key: host.key } : signIn,
    ...(host.port === undefined ? {} : { port: host.port }),
    ...(host.user === undefined ? {} : { user: host.user }),
    ...(host.folder === undefined ? {} : { folder: host.folder }),
    ...(host.cores === undefined ? {} : { cores: host.cores }),
  }
}

export function isReserved(host: Host, now: number): boolean {
  return host.reservedBy !== undefined && (host.reservedUntil === undefined || Date.parse(host.reservedUntil) > now)
}

const text = (most: number) => ({ type: 'string', minLength: 1, maxLength: most })
const port = { type: 'integer', minimum: 1, maximum: 65_535 }
/** Nothing a shell would read as more than a path. */
const folder = {
  type: 'string',
  pattern: '^(~/|/)[A-Za-z0-9._/-]{1,200}$',
  description: 'a path from ~/ or /, of letters, digits, dots and hyphens',
}
/** Nothing a program there would read as an option. */
const address = {
  type: 'string',
  pattern: '^[A-Za-z0-9\\[:][A-Za-z0-9._:\\[\\]-]{0,254}$',
  description: 'a name or an address',
}
const user = { type: 'string', pattern: '^[A-Za-z0-9._-]{1,64}$', description: 'letters, digits, dots and hyphens' }
const object = (required: Record<string, unknown>, optional: Record<string, unknown> = {}) => ({
  type: 'object',
  additionalProperties: false,
  required: Object.keys(required),
  properties: { ...required, ...optional },
})

/** JSON Schema (2020-12) of a site. */
export const SITE_SCHEMA = {
  $schema: 'https://json-schema.org/draft/2020-12/schema',
  $id: 'vornak-site/1',
  title: 'Vornak private site',
  ...object({
    id: { type: 'string', pattern: '^[a-z0-9][a-z0-9-]{0,39}$', description: 'small letters, digits and hyphens' },
    code: { type: 'string', pattern: '^[A-Z]{3}$', description: 'three capital letters' },
    name: text(80),
    template: object(
      {
        port,
        user,
        signIn: { anyOf: [object({ kind: { const: 'key' }, key: text(80) }), object({ kind: { const: 'agent' } })] },
        folder,
        node: { type: 'string', pattern: '^[A-Za-z0-9._/-]{1,200}$', description: 'a command or a path' },
      },
      {
        jump: object({ address, port, user }),
        proxy: { type: 'string', pattern: '^https?://', maxLength: 500 },
        environment: {
          type: 'object',
          maxProperties: 40,
          propertyNames: { type: 'string', pattern: '^[A-Z_][A-Z0-9_]{0,60}$' },
          additionalProperties: { type: 'string', maxLength: 1000 },
        },
      },
    ),
    hosts: {
      type: 'array',
      maxItems: 500,
      items: object(
        {
          name: {
            type: 'string',
            pattern: '^[A-Za-z0-9][A-Za-z0-9.-]{0,62}$',
            description: 'letters, digits, dots and hyphens',
          },
          address,
        },
        {
          port,
          user,
          key: text(80),
          folder,
          cores: { type: 'number', exclusiveMinimum: 0, maximum: 1024 },
          reservedBy: text(80),
          reservedUntil: { type: 'string', format: 'date-time' },
        },
      ),
    },
  }),
} as const
