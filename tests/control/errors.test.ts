/** The table of error codes: the page made of it is the one published, and it holds no code that nothing says. */
import { readdirSync, readFileSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { ERRORS, printErrors, type ErrorCode } from '../../api/errors'

const root = join(__dirname, '../..')

function sourcesIn(folder: string): string[] {
  return readdirSync(join(root, folder)).flatMap((name) => {
    const path = join(folder, name)
    return statSync(join(root, path)).isDirectory() ? sourcesIn(path) : /\.(ts|vue)$/.test(name) ? [path] : []
  })
}

it('is the page that is published; `npm run schemas` writes it', () => {
  expect(readFileSync(join(root, 'docs/errors.md'), 'utf8')).toBe(printErrors())
})

it('has no code that nothing says', () => {
  const text = ['control', 'main', 'server', 'app'].flatMap(sourcesIn).map(path => readFileSync(join(root, path), 'utf8')).join('\n')
  expect((Object.keys(ERRORS) as ErrorCode[]).filter(code => !text.includes(`'${code}'`))).toEqual([])
})
