/** What can be set from outside, with its defaults. Everything binds to 127.0.0.1 unless told otherwise. */

export interface Settings {
  host: string
  port: number
  /** Folder of the databases. */
  dataFolder: string
  /** File of the key that secrets are sealed with. */
  keyFile: string
  /** Nimbral's API address. */
  cloudAddress: string
  /** € per day. */
  dailyBudget: number
  /** Further origins whose pages may call: the development server's. */
  allowedOrigins: string[]
}

export function readSettings(env: NodeJS.ProcessEnv): Settings {
  const port = Number(env.VORNAK_PORT ?? 4700)
  if (!Number.isInteger(port) || port < 1 || port > 65_535) throw new Error(`VORNAK_PORT is “${env.VORNAK_PORT}”: give a port from 1 to 65535.`)
  const dailyBudget = Number(env.VORNAK_DAILY_BUDGET ?? 20)
  if (!(dailyBudget >= 0)) throw new Error(`VORNAK_DAILY_BUDGET is “${env.VORNAK_DAILY_BUDGET}”: give an amount in €.`)
  const dataFolder = env.VORNAK_DATA ?? '.data'
  return {
    host: env.VORNAK_HOST ?? '127.0.0.1',
    port,
    dataFolder,
    // Beside the data folder, so that a copy of the data gives nothing away.
    keyFile: env.VORNAK_KEY_FILE ?? `${dataFolder.replace(/\/+$/, '')}.key`,
    cloudAddress: env.VORNAK_CLOUD ?? 'http://127.0.0.1:4720',
    dailyBudget,
    allowedOrigins: (env.VORNAK_ORIGINS ?? '').split(',').filter(Boolean),
  }
}
