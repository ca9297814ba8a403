/** What can be set from outside, with its defaults. Everything binds to 127.0.0.1 unless told otherwise. */
import { readFileSync } from 'node:fs'
import { ROLES, type Role } from '../api/roles'
import type { CoordinatorOptions } from '../control/coordinator'
import type { ElsewhereSettings } from '../control/people/elsewhere'
import type { StageBounds } from '../control/machines/stage-times'
import { messageOf } from '../core/values/thrown'

type LevelPace = NonNullable<CoordinatorOptions['levelPace']>

/** PEM files, and the settings that name them. */
export interface CertificateFiles {
  certFile: string
  keyFile: string
  settings: readonly [cert: string, key: string]
}

export interface Settings {
  host: string
  port: number
  /** Folder of the databases. */
  dataFolder: string
  /** File of the key that secrets are sealed with. */
  keyFile: string
  /** Address browsers reach it by, where that is not host and port. */
  publicAddress?: string
  /** An account at Nimbral that is there from the first start: address of its API, and key. */
  cloudAddress: string
  cloudKey: string
  /** Least and longest time a machine gets for a stage on its way, ms. */
  stageBounds?: StageBounds
  /** € per day. */
  dailyBudget: number
  /** Seconds of the self-test of machines that nobody has calibrated; 0: none. */
  selfTestS: number
  /** How long a calibration holds its levels, where not as usual. */
  levelPace?: LevelPace
  /** Another service that people sign in with. */
  elsewhere?: ElsewhereSettings
  /** Certificate and key of the operators' door: elsewhere than on this computer it speaks TLS with them. */
  tls?: CertificateFiles
  /** The generators' door. It speaks TLS with a certificate of its own making, unless one is given. */
  generators: {
    host: string
    port: number
    /** Where generators reach it, if not at host and port: `https://load.example:4701`. */
    address?: string
    tls?: CertificateFiles
  }
  /** Addresses of proxies that ask who comes, or speak TLS, before they pass it on; networks may be given. */
  proxies?: string[]
  /** Further origins whose pages may call: the development server's. */
  allowedOrigins: string[]
  /** Free bytes of the data folder's disk below which no run begins and what runs is drained. */
  leastDiskBytes?: number
}

export function readSettings(env: NodeJS.ProcessEnv): Settings {
  const port = Number(env.VORNAK_PORT ?? 4700)
  if (!Number.isInteger(port) || port < 1 || port > 65_535)
    throw new Error(`VORNAK_PORT is “${env.VORNAK_PORT}”: give a port from 1 to 65535.`)
  const dailyBudget = Number(env.VORNAK_DAILY_BUDGET ?? 20)
  if (!(dailyBudget >= 0)) throw new Error(`VORNAK_DAILY_BUDGET is “${env.VORNAK_DAILY_BUDGET}”: give an amount in €.`)
  if (env.VORNAK_ADDRESS && !/^https?:\/\/[^/]+\/?$/.test(env.VORNAK_ADDRESS))
    throw new Error(`VORNAK_ADDRESS is “${env.VORNAK_ADDRESS}”: give an address like http://load.example:4700.`)
  const selfTestS = Number(env.VORNAK_SELF_TEST_S ?? 20)
  if (!(selfTestS >= 0 && selfTestS <= 120))
    throw new Error(`VORNAK_SELF_TEST_S is “${env.VORNAK_SELF_TEST_S}”: give 0 to 120 seconds.`)
  const levelPace = paceFrom(env.VORNAK_LEVEL_S)
  const stageBounds = boundsFrom(env.VORNAK_STAGE_S)
  const tls = certificateFrom(env, 'VORNAK_TLS_CERT', 'VORNAK_TLS_KEY')
  const host = env.VORNAK_HOST ?? '127.0.0.1'
  const elsewhere = elsewhereFrom(env)
  const leastDiskMb = Number(env.VORNAK_LEAST_DISK_MB ?? 500)
  if (!(leastDiskMb >= 0)) throw new Error(`VORNAK_LEAST_DISK_MB is “${env.VORNAK_LEAST_DISK_MB}”: give megabytes.`)
  const dataFolder = env.VORNAK_DATA ?? '.data'
  return {
    host,
    port,
    dataFolder,
    // Beside the data folder, so that a copy of the data gives nothing away.
    keyFile: env.VORNAK_KEY_FILE ?? `${dataFolder.replace(/\/+$/, '')}.key`,
    cloudAddress: env.VORNAK_CLOUD ?? '',
    cloudKey: env.VORNAK_CLOUD_KEY ?? '',
    ...(env.VORNAK_ADDRESS ? { publicAddress: env.VORNAK_ADDRESS.replace(/\/+$/, '') } : {}),
    ...(stageBounds ? { stageBounds } : {}),
    dailyBudget,
    selfTestS,
    ...(levelPace ? { levelPace } : {}),
    ...(elsewhere ? { elsewhere } : {}),
    ...(tls ? { tls } : {}),
    generators: generatorsFrom(env, { host, port }),
    proxies: (env.VORNAK_PROXY ?? '').split(',').filter(Boolean),
    leastDiskBytes: leastDiskMb * 1024 * 1024,
    allowedOrigins: (env.VORNAK_ORIGINS ?? '').split(',').filter(Boolean),
  }
}

/** @throws Error */
function certificateFrom(env: NodeJS.ProcessEnv, cert: string, key: string): CertificateFiles | undefined {
  const { [cert]: certFile, [key]: keyFile } = env
  if (!certFile !== !keyFile) throw new Error(`${cert} and ${key} belong together: give both files.`)
  return certFile && keyFile ? { certFile, keyFile, settings: [cert, key] } : undefined
}

/** Beside the operators' door, unless it is said where. @throws Error */
function generatorsFrom(env: NodeJS.ProcessEnv, beside: { host: string, port: number }): Settings['generators'] {
  const { VORNAK_GENERATORS_PORT: portText, VORNAK_GENERATORS_ADDRESS: address } = env
  const port = Number(portText ?? beside.port + 1)
  if (!Number.isInteger(port) || port < 1 || port > 65_535 || port === beside.port)
    throw new Error(`VORNAK_GENERATORS_PORT is “${port}”: give a port from 1 to 65535 that is not VORNAK_PORT.`)
  if (address && !/^https:\/\/[^/]+\/?$/.test(address))
    throw new Error(`VORNAK_GENERATORS_ADDRESS is “${address}”: give an address like https://load.example:4701.`)
  const tls = certificateFrom(env, 'VORNAK_GENERATORS_CERT', 'VORNAK_GENERATORS_KEY')
  return {
    host: env.VORNAK_GENERATORS_HOST ?? beside.host,
    port,
    ...(address ? { address: address.replace(/\/+$/, '') } : {}),
    ...(tls ? { tls } : {}),
  }
}

/** `20-60`: seconds. @throws Error */
function boundsFrom(text: string | undefined): StageBounds | undefined {
  if (text === undefined) return undefined
  const [, least, most] = /^(\d+)-(\d+)$/.exec(text) ?? []
  if (!least || !most || Number(least) > Number(most))
    throw new Error(`VORNAK_STAGE_S is “${text}”: give the least and the longest seconds of a stage, like 240-720.`)
  return { leastMs: Number(least) * 1000, mostMs: Number(most) * 1000 }
}

/** `6-8-30`: seconds of settling in, of a level, and of one that confirms. @throws Error */
function paceFrom(text: string | undefined): LevelPace | undefined {
  if (text === undefined) return undefined
  const [settleS, holdS, confirmS] = (/^(\d+)-(\d+)-(\d+)$/.exec(text) ?? []).slice(1).map(Number)
  if (settleS === undefined || !holdS || !confirmS)
    throw new Error(`VORNAK_LEVEL_S is “${text}”: give seconds of settling in, of a level and of the last, like 6-8-30.`)
  return { settleS, holdS, confirmS }
}

/** @throws Error */
function elsewhereFrom(env: NodeJS.ProcessEnv): ElsewhereSettings | undefined {
  const { VORNAK_OIDC: issuer, VORNAK_OIDC_CLIENT: client, VORNAK_OIDC_SECRET_FILE: secretFile } = env
  if (!issuer) return undefined
  if (!URL.canParse(issuer)) throw new Error(`VORNAK_OIDC is “${issuer}”: give the address of the issuer.`)
  if (!client || !secretFile)
    throw new Error('VORNAK_OIDC needs VORNAK_OIDC_CLIENT and VORNAK_OIDC_SECRET_FILE, the file its secret stands in.')
  return {
    issuer,
    client,
    secret: secretIn(secretFile),
    name: env.VORNAK_OIDC_NAME ?? new URL(issuer).hostname,
    scope: env.VORNAK_OIDC_SCOPE ?? 'openid profile email',
    ...rolesFrom(env.VORNAK_OIDC_ROLES),
  }
}

function secretIn(file: string): string {
  try {
    return readFileSync(file, 'utf8').trim()
  }
  catch (error) {
    throw new Error(`VORNAK_OIDC_SECRET_FILE cannot be read: ${messageOf(error)}`, { cause: error })
  }
}

/** `groups:load-team=operator,load-leads=keeper,*=viewer`: a claim, and what its values stand for. @throws Error */
function rolesFrom(text: string | undefined): Pick<ElsewhereSettings, 'claim' | 'roles'> {
  const [, claim, list] = /^([\w.-]+):(.+)$/.exec(text ?? '') ?? []
  const pairs = (list ?? '').split(',').map(pair => pair.split('='))
  if (!claim || pairs.some(([value, role]) => !value || !ROLES.some(known => known === role)))
    throw new Error(
      `VORNAK_OIDC_ROLES is “${text ?? ''}”: give a claim and what its values stand for, like groups:load-team=operator,load-leads=keeper,*=viewer.`,
    )
  // Each was held against the roles just now.
  return { claim, roles: Object.fromEntries(pairs) as Record<string, Role> }
}
