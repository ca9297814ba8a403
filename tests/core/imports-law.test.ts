/**
 * The law of who may import whom turns red for a wrong import, a type as well; tried on small trees of our folders'
 * names.
 */
import { execFileSync } from 'node:child_process'
import { mkdirSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { ownFolder } from '../build/folder'

const root = join(__dirname, '../..')
const folder = ownFolder()

/** @returns rules that such files break, each after the file that breaks it */
function broken(files: Record<string, string>): string[] {
  const tree = join(folder, 'tree')
  for (const [path, text] of Object.entries(files)) {
    mkdirSync(dirname(join(tree, path)), { recursive: true })
    writeFileSync(join(tree, path), text)
  }
  const cruise = join(root, 'node_modules/dependency-cruiser/bin/dependency-cruise.mjs')
  let report: string
  try {
    report = execFileSync(
      process.execPath,
      [cruise, '--config', join(root, '.dependency-cruiser.cjs'), '--output-type', 'json', '.'],
      { cwd: tree, encoding: 'utf8', stdio: ['ignore', 'pipe', 'ignore'], maxBuffer: 16e6 },
    )
  }
  catch (error) {
    report = (error as { stdout: string }).stdout
  }
  // As the program writes it.
  const { summary } = JSON.parse(report) as { summary: { violations: { from: string, rule: { name: string } }[] } }
  return summary.violations.map(v => `${v.from}: ${v.rule.name}`).sort()
}

it('the law of imports turns red for each wrong import, a type as well, and has nothing against the others', () => {
  const value = (name: string) => `export const ${name} = 1\n`
  const type = (name: string) => `export interface ${name} { it: number }\n`
  expect(
    broken({
      // What stands before may be imported.
      'core/load/right.ts': value('a'),
      'core/plan/right.ts': 'import { a } from \'../load/right\'\nexport const b = a\n',
      // What stands after may not, be it a type alone.
      'core/plan/later.ts': `${value('b')}${type('B')}`,
      'core/load/value.ts': 'import { b } from \'../plan/later\'\nexport const a = b\n',
      'core/load/type.ts': 'import type { B } from \'../plan/later\'\nexport type A = B\n',
      'control/run/later.ts': type('R'),
      'control/store/type.ts': 'import type { R } from \'../run/later\'\nexport type A = R\n',
      // Core does not look out of itself.
      'control/clock.ts': type('C'),
      'core/load/out.ts': 'import type { C } from \'../../control/clock\'\nexport type A = C\n',
      // A folder without a place in the order.
      'core/attic/a.ts': 'import { a } from \'../load/right\'\nexport const b = a\n',
      // Nobody knows the coordinator.
      'control/coordinator.ts': type('Coordinator'),
      'control/run/knows.ts': 'import type { Coordinator } from \'../coordinator\'\nexport type A = Coordinator\n',
    }),
  ).toEqual([
    'control/run/knows.ts: control-is-put-together-last',
    'control/store/type.ts: control-store-imports',
    'core/attic/a.ts: core-rooms',
    'core/load/out.ts: core-imports',
    'core/load/type.ts: core-load-imports',
    'core/load/value.ts: core-load-imports',
  ])
}, 60_000)
