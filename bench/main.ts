/** Measurements: `npm run bench -- NAME [--quick]`, one JSON line each. Without a name, all. */
import { fileURLToPath } from 'node:url'
import { benchAccount, serveMetricsPage } from './account'
import { benchCompare } from './compare'
import { benchElsewhere } from './elsewhere'
import { benchGenerator } from './generator'
import { benchHar } from './har'
import { benchIngest } from './ingest'
import { benchLink, linkGenerators } from './link'
import { benchLong } from './long'
import { benchMerge } from './merge'
import { benchPlacement } from './placement'
import { benchRamp } from './ramp'
import { benchReport } from './report'
import { benchShaping } from './shaping'
import { benchSizing } from './sizing'
import { serveTarget } from './target'
import { benchWindow } from './window'
import { benchUsers, usersBare, usersOurs } from './users'

const program = fileURLToPath(import.meta.url)
const beside = (name: string) => fileURLToPath(new URL(name, import.meta.url))
const BENCHES: Record<string, (quick: boolean) => void | Promise<void>> = {
  merge: benchMerge,
  generator: quick => benchGenerator(program, quick),
  users: quick => benchUsers(program, quick),
  ramp: quick => benchRamp(program, fileURLToPath(new URL('./bench-ramp-worker.mjs', import.meta.url)), quick),
  placement: benchPlacement,
  sizing: benchSizing,
  shaping: quick => benchShaping(program, quick),
  ingest: benchIngest,
  link: quick => benchLink(program, quick),
  long: quick => benchLong({ program: beside('merge-worker.mjs'), clearing: beside('clear-worker.mjs') }, quick, option('--hours', 1), option('--generators', 200)),
  har: benchHar,
  window: benchWindow,
  account: benchAccount,
  compare: benchCompare,
  elsewhere: benchElsewhere,
  report: () => benchReport(program),
}

/** A number that is given by name. */
function option(name: string, usual: number): number {
  const at = process.argv.indexOf(name)
  return at < 0 ? usual : Number(process.argv[at + 1])
}

const [name, ...rest] = process.argv.slice(2)
const quick = process.argv.includes('--quick')
if (name === 'target' || name === 'secure-target') serveTarget(name === 'secure-target')
else if (name === 'metrics-page') serveMetricsPage()
else if (name === 'link-generators') await linkGenerators(rest[0]!, rest[1]!, Number(rest[2]))
else if (name === 'users-ours') await usersOurs(rest[0]!, Number(rest[1]), Number(rest[2]), rest[3] === 'shaped')
else if (name === 'users-bare') await usersBare(rest[0]!, Number(rest[1]), Number(rest[2]))
else if (name === undefined || name === '--quick') for (const bench of Object.values(BENCHES)) await bench(quick)
else if (BENCHES[name]) await BENCHES[name](quick)
else {
  console.error(`There is no bench “${name}”. There are: ${Object.keys(BENCHES).join(', ')}.`)
  process.exit(64)
}
