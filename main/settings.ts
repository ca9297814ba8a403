/** What can be set from outside, with its defaults. Everything binds to 127.0.0.1 unless told otherwise. */
import type { StageBounds } from '../control/machines/stage-times'

export interface Settings {
  host: string
  port: number
  /** Folder of the databases. */
  dataFolder: string
  /** File of the key that secrets are sealed with. */
  keyFile: string
  /**
   * Address others reach it by, where that is not host and port: machines that enrol from elsewhere, browsers behind a
   * proxy.
   */
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
  /** Further origins whose pages may call: the development server's. */
  allowedOrigins: string[]
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
  const stageBounds = boundsFrom(env.VORNAK_STAGE_S)
  const dataFolder = env.VORNAK_DATA ?? '.data'
  return {
    host: env.VORNAK_HOST ?? '127.0.0.1',
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
    allowedOrigins: (env.VORNAK_ORIGINS ?? '').split(',').filter(Boolean),
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
