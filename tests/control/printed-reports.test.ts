/**
 * Reports as files, held against readers that were not made here: pdfinfo and pdftotext (Poppler), an HTML parser, a
 * parser of GitHub's Markdown.
 */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { lexer, type Tokens } from 'marked'
import { ControlError } from '../../control/errors'
import { Printer, type ReportForm } from '../../control/report/printer'
import { cleanSvg, readLogo } from '../../control/report/logo'
import { noteHtml } from '../../control/report/notes'
import { reportOfRun } from '../../core/report/of-run'
import type { Report } from '../../core/report/report'
import { SECTION_IDS, USUAL_WISH, type ReportWish } from '../../core/report/wish'
import { reportedRun } from '../build/reported-run'

const printer = new Printer(join(__dirname, '../../dist/report-worker.mjs'))
const SVG = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 10 10"><rect width="10" height="10" fill="#152B79"/></svg>'
const uri = (svg: string) => `data:image/svg+xml;base64,${Buffer.from(svg).toString('base64')}`
const everything: ReportWish = {
  ...USUAL_WISH,
  organisation: 'Ostervik University',
  audience: 'the registrar',
  logo: uri(SVG),
  sections: SECTION_IDS.map(id => ({ id, isShown: true, ...(id === 'cost' ? { note: 'Of *last year’s* money.\n\n- one\n- two' } : {}) })),
}
const made = (wish: Partial<ReportWish> = {}): Report => reportOfRun(reportedRun, { ...everything, ...wish })
const print = async (form: ReportForm, wish?: Partial<ReportWish>) => await printer.print(() => made(wish), form)
const folder = mkdtempSync(join(tmpdir(), 'vornak-report-'))

describe('as PDF', () => {
  const asText = (bytes: Uint8Array) => {
    const path = join(folder, 'report.pdf')
    writeFileSync(path, bytes)
    return {
      info: execFileSync('pdfinfo', [path], { encoding: 'utf8' }),
      text: execFileSync('pdftotext', ['-layout', path, '-'], { encoding: 'utf8' }),
      fonts: execFileSync('pdffonts', [path], { encoding: 'utf8' }),
    }
  }

  it('has the answer first, every section, numbered pages, and letters of other scripts', async () => {
    const { info, text, fonts } = asText((await print('pdf')) as Uint8Array)
    expect(info).toMatch(/Page size: +595\.28 x 841\.89 pts \(A4\)/)
    const pages = Number(/Pages: +(\d+)/.exec(info)![1])
    expect(pages).toBeGreaterThan(1)
    for (let page = 1; page <= pages; page++) expect(text).toContain(`${page} of ${pages}`)
    const answer = text.indexOf('No: p95 of Ask 1.20 s at 20 users.')
    const titles = made().sections.map(s => text.indexOf(s.title, answer))
    expect(answer).toBeGreaterThan(0)
    expect(titles).toEqual([...titles].sort((a, b) => a - b))
    expect(titles.every(at => at > answer)).toBe(true)
    expect(text).toContain('Пробная запись <b>| & _утро_')
    expect(text).toContain('Of last year’s money.')
    // All its fonts travel with it: column “emb”.
    const embedded = fonts.split('\n').slice(2).filter(Boolean)
    expect(embedded.length).toBeGreaterThanOrEqual(3)
    expect(embedded.every(line => / yes yes (?:yes|no) /.test(line))).toBe(true)
  }, 30_000)

  it('fits the paper that is wished', async () => {
    expect(asText((await print('pdf', { paper: 'letter' })) as Uint8Array).info).toMatch(/Page size: +612 x 792 pts/)
  }, 30_000)
})

describe('as HTML', () => {
  let html: string
  beforeAll(async () => {
    html = (await print('html')) as string
  }, 30_000)

  it('needs nothing from elsewhere, and is not large', () => {
    expect(html.length).toBeLessThan(1_500_000)
    expect(html).not.toMatch(/(?:src|href)="(?!data:|#)/)
    expect(html.match(/url\((?!data:)[^#)]/g)).toBeNull()
    expect(html).not.toMatch(/@import/)
  })

  it('sets words as words, whatever letters they have', () => {
    expect(html).toContain('<h1>Пробная запись &lt;b&gt;| &amp; _утро_</h1>')
    expect(html).toContain('<em>last year’s</em>')
  })

  it('has a chart as SVG, and figures by which its tables sort', () => {
    expect(html).toMatch(/<div class="curve"[^>]*><svg/)
    expect(html).toContain('data-by="1200"')
  })
})

describe('as Markdown', () => {
  it('reads back as the tables it was made of, cell by cell', async () => {
    const text = (await print('markdown')) as string
    const tokens = lexer(text)
    const tables = tokens.filter((t): t is Tokens.Table => t.type === 'table')
    const own = made().sections.flatMap(s => s.blocks.filter(b => b.kind === 'table'))
    expect(tables.map(t => [t.header.length, t.rows.length])).toEqual(
      own.map(t => [t.columns.length, t.rows.length + (t.foot ? 1 : 0)]),
    )
    const [heading] = tokens as Tokens.Heading[]
    expect((heading!.tokens as Tokens.Text[]).map(t => t.text).join('')).toBe('Пробная запись <b>| & _утро_')
  }, 30_000)
})

describe('what people bring along', () => {
  it('is left its words and loses what acts', () => {
    expect(noteHtml('Hello *you* <script>alert(1)</script><img src=x onerror=alert(1)>[a](javascript:alert(1))')).toBe(
      '<p>Hello <em>you</em> <a>a</a></p>\n',
    )
  })

  it('loses scripts, handlers and what is fetched from elsewhere, in pictures', () => {
    const dirty = `<?xml version="1.0"?><svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9" onload="alert(1)"><script>alert(2)</script>
      <image href="http://127.0.0.1/x.png"/><a href="javascript:alert(3)"><rect width="9" height="9" fill="url(http://127.0.0.1/)"/></a>
      <foreignObject><p>4</p></foreignObject><linearGradient id="g"/><circle r="4" fill="url(#g)"/></svg>`
    const clean = cleanSvg(dirty)
    expect(clean).not.toMatch(/alert|script|http:\/\/127|foreignObject|<image|<a\b/)
    expect(clean).toContain('viewBox="0 0 9 9"')
    expect(clean).toContain('linearGradient')
    expect(clean).toContain('fill="url(#g)"')
  })

  it.each([
    ['a PNG that is none', 'data:image/png;base64,aGVsbG8='],
    ['an SVG that is none', uri('<p>hello</p>')],
    ['another kind', 'data:image/gif;base64,R0lGODlhAQABAAAAACw='],
  ])('is refused where it is %s', (_, logo) => {
    expect(readLogo(logo)).toBeUndefined()
  })
})

it('tells what gathering its figures told, where that failed', async () => {
  const gone = new ControlError('given-back', 410, 'It was given back.', 'Ask another.')
  await expect(printer.print(() => Promise.reject(gone), 'html')).rejects.toBe(gone)
})

it('says so when it cannot be made', async () => {
  await expect(new Printer(join(__dirname, '../../dist/no-such-worker.mjs')).print(() => made(), 'html')).rejects.toMatchObject({
    code: 'report',
  })
})
