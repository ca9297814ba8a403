/** `npm run soak`: half an hour of faults on real processes; `VORNAK_SOAK_MIN` and `VORNAK_SOAK_SEED` say otherwise. */
import { buildPrograms } from './build.mjs'
import { checkNode, installPackages, runTool } from './ground.mjs'

checkNode()
await installPackages()
await buildPrograms()
process.exit(await runTool('jest', ['--runInBand', '--testMatch', '**/tests/soak/*.ts']))
