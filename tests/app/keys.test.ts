/** Keys: one letter means one thing on every screen, and the page that tells them is the table. */
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { KEY_MEANINGS, writtenKey } from '../../app/format/key-meanings'

const app = join(__dirname, '..', '..', 'app')
const files = (readdirSync(app, { recursive: true }) as string[]).filter(f => f.endsWith('.vue'))

describe('keys', () => {
  it('are told in docs/keys.md as they are', () => {
    const page = readFileSync(join(app, '..', 'docs', 'keys.md'), 'utf8')
    const told = [...page.matchAll(/^\| `([^`]+)` \| (.+) \|$/gm)].map(([, key, means]) => [key, means])
    expect(told).toEqual(Object.entries(KEY_MEANINGS))
  })

  it('are each used by some screen, and no screen uses one twice', () => {
    const used = new Set<string>()
    for (const file of files) {
      const text = readFileSync(join(app, file), 'utf8')
      const keys = [...text.matchAll(/\bkey: '([^']+)'/g)].map(m => m[1]!)
      const known = keys.filter(k => k in KEY_MEANINGS)
      expect([file, known.filter((k, i) => known.indexOf(k) !== i)]).toEqual([file, []])
      for (const k of known) used.add(k)
    }
    const places = ['1', '2', '3', '4', '5']
    expect(Object.keys(KEY_MEANINGS).filter(k => !used.has(k) && !places.includes(k))).toEqual([])
  })

  it('stand as caps on buttons only where an act has them', () => {
    for (const file of files) {
      const text = readFileSync(join(app, file), 'utf8')
      const caps = [...text.matchAll(/<UKbd[^>]*>([^<{]+)<\/UKbd>/g)].map(m => m[1]!.trim().replaceAll(' ', '+'))
      const known = [...Object.keys(KEY_MEANINGS), '↑', '↓', 'Alt', 'd', 'o', 'Del', 'Shift+S']
      expect([file, caps.filter(c => !known.includes(c))]).toEqual([file, []])
    }
  })

  it('are written as they are pressed; ⌘ is Ctrl', () => {
    const press = (key: string, more = {}) =>
      writtenKey({ key, ctrlKey: false, metaKey: false, shiftKey: false, ...more })
    expect(press('s')).toBe('s')
    expect(press('S', { shiftKey: true })).toBe('S')
    expect(press('k', { metaKey: true })).toBe('Ctrl+K')
    expect(press('Z', { ctrlKey: true, shiftKey: true })).toBe('Ctrl+Shift+Z')
  })
})
