/** Builds what is stale: programs with esbuild, pages with Nuxt. */
import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { checkNode, DIST, giveUp, installPackages, ROOT, runTool, unlessFresh } from './ground.mjs'

const SOURCES = [
  'api',
  'bench',
  'cli',
  'control',
  'core',
  'demo',
  'generator',
  'main',
  'protocol',
  'simfleet',
  'standins',
]

/** One file each; the database driver stays outside, for it is native. */
const PROGRAMS = {
  main: 'main/main.ts',
  'merge-worker': 'control/ingest/worker.ts',
  'clear-worker': 'control/ingest/clear-worker.ts',
  'import-worker': 'control/imports/worker.ts',
  'elsewhere-worker': 'control/elsewhere/worker.ts',
  'report-worker': 'control/report/worker.ts',
  'sizing-worker': 'control/library/sizing-worker.ts',
  generator: 'generator/main.ts',
  'answering-sink': 'standins/answering-sink/main.ts',
  'nimbral-cloud': 'standins/nimbral-cloud/main.ts',
  'private-hosts': 'standins/private-hosts/main.ts',
  mailbox: 'standins/mailbox/main.ts',
  person: 'cli/person.ts',
  backup: 'cli/backup.ts',
  restore: 'cli/restore.ts',
  'new-key': 'cli/new-key.ts',
  simfleet: 'simfleet/main.ts',
  'enrolment-portal': 'standins/enrolment-portal/main.ts',
  'seed-demo': 'demo/seed.ts',
  bench: 'bench/main.ts',
  'bench-ramp-worker': 'bench/ramp-worker.ts',
}

export async function buildPrograms() {
  await unlessFresh('programs', [...SOURCES, 'package-lock.json', 'scripts/build.mjs', 'scripts/ports.cjs'], async () => {
    const { build } = await import('esbuild')
    await build({
      absWorkingDir: ROOT,
      entryPoints: Object.fromEntries(Object.entries(PROGRAMS).filter(([, file]) => existsSync(join(ROOT, file)))),
      outdir: DIST,
      outExtension: { '.js': '.mjs' },
      bundle: true,
      platform: 'node',
      target: 'node20',
      format: 'esm',
      sourcemap: 'linked',
      logLevel: 'warning',
      external: ['better-sqlite3', 'pdfmake', 'fontkit', '@node-rs/argon2', 'ssh2', 'bufferutil', 'utf-8-validate'],
      loader: { '.sql': 'text' },
      banner: {
        js: 'import { createRequire as vornakRequire } from \'node:module\'; const require = vornakRequire(import.meta.url);',
      },
    })
  })
}

export async function buildPages() {
  await unlessFresh(
    'pages',
    ['app', 'server', 'api', 'core', 'public', 'nuxt.config.ts', 'package-lock.json', 'control/meeting-place.ts'],
    async () => {
      console.log('Building the pages…')
      const code = await runTool('nuxt', ['build', '--preset', 'node-listener'], {
        env: { ...process.env, NUXT_TELEMETRY_DISABLED: '1' },
      })
      if (code !== 0) giveUp('The pages could not be built; see above.')
    },
  )
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  checkNode()
  await installPackages()
  await buildPrograms()
  if (process.argv[2] !== 'programs') await buildPages()
}
