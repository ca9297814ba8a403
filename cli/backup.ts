/** `npm run backup -- FILE`: everything an installation keeps in one file, while it runs or not. */
import { backUp } from '../control/store/backup'
import { runToEnd } from './said'

async function main(): Promise<void> {
  const file = process.argv[2]
  if (!file) throw new Error('Say where to: npm run backup -- FILE.tar.gz')
  const folder = process.env.VORNAK_DATA ?? '.data'
  const { files, installation } = await backUp(folder, file, Date.now())
  const runs = files.filter(f => f.path.startsWith('runs/')).length
  console.log(
    `${file}: ${installation} with ${runs} ${runs === 1 ? 'run' : 'runs'} and ${files.length - runs - 1} files. Secrets in it are sealed; keep their key, ${process.env.VORNAK_KEY_FILE ?? `${folder.replace(/\/+$/, '')}.key`}, in another place.`,
  )
}

runToEnd(main)
