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
let trees = 0

/** @returns names of the rules that such files break */
function broken(files: Record<string, string>): string[] {
  const tree = join(folder, `tree-${++trees}`)
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
  return [
    ...new Set(
      (JSON.parse(report) as { summary: { violations: { rule: { name: string } }[] } }).summary.violations.map(
        v => v.rule.name,
      ),
    ),
  ].sort()
}

describe('the law of imports', () => {
  it('has nothing against a room that imports what stands before it', () => {
    expect(
      broken({
        'core/load/a.ts': 'export const a = 1\n',
        'core/plan/b.ts': 'import { a } from \'../load/a\'\nexport const b = a\n',
      }),
    ).toEqual([])
  }, 60_000)

  it('turns red for a room that imports what stands after it, be it a type alone', () => {
    const plan = { 'core/plan/b.ts': 'export interface B { b: number }\nexport const b = 1\n' }
    expect(broken({ ...plan, 'core/load/a.ts': 'import { b } from \'../plan/b\'\nexport const a = b\n' })).toEqual([
      'core-load-imports',
    ])
    expect(broken({ ...plan, 'core/load/a.ts': 'import type { B } from \'../plan/b\'\nexport type A = B\n' })).toEqual([
      'core-load-imports',
    ])
    expect(
      broken({
        'control/store/a.ts': 'import type { R } from \'../run/r\'\nexport type A = R\n',
        'control/run/r.ts': 'export interface R { r: number }\n',
      }),
    ).toEqual(['control-store-imports'])
  }, 60_000)

  it('turns red for core that looks out of itself, for a room without a place, and for whoever knows the coordinator', () => {
    expect(
      broken({
        'core/load/a.ts': 'import type { C } from \'../../control/clock\'\nexport type A = C\n',
        'control/clock.ts': 'export interface C { c: number }\n',
      }),
    ).toEqual(['core-imports'])
    expect(
      broken({
        'core/attic/a.ts': 'import { b } from \'../load/b\'\nexport const a = b\n',
        'core/load/b.ts': 'export const b = 1\n',
      }),
    ).toEqual(['core-rooms'])
    expect(
      broken({
        'control/run/a.ts': 'import type { C } from \'../coordinator\'\nexport type A = C\n',
        'control/coordinator.ts': 'export interface C { c: number }\n',
      }),
    ).toEqual(['control-is-put-together-last'])
  }, 60_000)
})
