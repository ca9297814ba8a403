/** Settings of a server in a test: on ports that are free, with nothing else around it. */
import { freePort } from '../../scripts/ports.cjs'
import type { Settings } from '../../main/settings'

/** @param dataFolder its key lies beside it */
export async function settingsIn(dataFolder: string): Promise<Settings> {
  return {
    host: '127.0.0.1',
    port: await freePort(),
    generators: { host: '127.0.0.1', port: await freePort() },
    dataFolder,
    keyFile: `${dataFolder}.key`,
    cloudAddress: '',
    cloudKey: '',
    dailyBudget: 5,
    selfTestS: 0,
    allowedOrigins: [],
  }
}
