/** `npm run bench -- NAME [--quick]`: one JSON line per measurement. */
import { join } from 'node:path'
import { buildPrograms } from './build.mjs'
import { checkNode, DIST, installPackages, run } from './ground.mjs'

checkNode()
await installPackages()
await buildPrograms()
process.exit(await run(process.execPath, ['--expose-gc', join(DIST, 'bench.mjs'), ...process.argv.slice(2)]))
