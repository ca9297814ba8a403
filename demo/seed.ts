/** Makes the demo's database: `node seed-demo.mjs DATA-FOLDER PORTAL-ADDRESS`. */
import { fileURLToPath } from 'node:url'
import { Coordinator } from '../control/coordinator'
import { realClock } from '../control/clock'
import { fillLibrary } from './library'

const [dataFolder, portal] = process.argv.slice(2)
const coordinator = new Coordinator({
  dataFolder: dataFolder!, clock: realClock, providers: [], controllerAddress: () => '', mergeWorker: fileURLToPath(new URL('./merge-worker.mjs', import.meta.url)), dailyBudget: 20,
  onFatal: (error) => { throw error },
})
fillLibrary(coordinator, portal!, Date.now())
await coordinator.shutDown()
