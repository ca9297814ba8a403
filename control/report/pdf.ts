/** A report as PDF, A4 or Letter, without a browser. */
import * as fontkit from 'fontkit'
import pdfmake from 'pdfmake'
import type { Content, ContentText, TableCell, TDocumentDefinitions } from 'pdfmake/interfaces'
import { MARK_SHAPES } from '../../core/report/mark-shapes'
import type { Block, ReportCell, Mark, Report, ReportSection, Table } from '../../core/report/report'
import { curveSvg, CURVE_WIDTH } from './curve-svg'
import { readLogo } from './logo'
import { HAIR, INK, MARK_COLOURS, QUIET } from './look'
import { noteTokens } from './notes'

/** Files of fonts: the house's own, and one with many more letters for those it has not. */
export interface PdfFonts {
  normal: string
  bold: string
  italics: string
  bolditalics: string
  wide: string
  wideBold: string
}

const FAMILY = 'Archivo'
const WIDE = 'Wide'
const MARGIN = 48
/** Width of the paper, points. */
const WIDTHS = { A4: 595.28, letter: 612 } as const

export async function reportPdf(report: Report, fonts: PdfFonts): Promise<Uint8Array> {
  const { normal, bold, italics, bolditalics, wide, wideBold } = fonts
  // It is one font, and no collection of several.
  const set = new Setting(fontkit.openSync(normal) as fontkit.Font)
  const { title, subtitle, organisation, audience, about, paper, answer } = report
  const width = WIDTHS[paper] - 2 * MARGIN
  const document: TDocumentDefinitions = {
    pageSize: paper === 'A4' ? 'A4' : 'LETTER',
    pageMargins: [MARGIN, 44, MARGIN, 52],
    info: { title, author: organisation || 'Vornak', creator: 'Vornak', producer: 'Vornak' },
    defaultStyle: { font: FAMILY, fontSize: 9, color: INK, lineHeight: 1.15 },
    footer: (page, pages) => ({
      margin: [MARGIN, 14, MARGIN, 0],
      fontSize: 8,
      color: QUIET,
      columns: [set.words(about), { text: `${page} of ${pages}`, alignment: 'right', width: 60 }],
    }),
    content: [
      {
        columns: [
          ...logoContent(report),
          { stack: [set.words(organisation, { bold: true }), set.words(audience && `for ${audience}`)], width: '*' },
          { ...set.words(about), color: QUIET, alignment: 'right', width: 'auto' },
        ],
        columnGap: 12,
      },
      { ...line(width, 1.4), margin: [0, 6, 0, 12] },
      { ...set.words(title, { bold: true }), fontSize: 19 },
      { ...set.words(subtitle), color: QUIET, margin: [0, 2, 0, 10] },
      {
        table: {
          widths: ['*'],
          body: [[{
            stack: [
              set.marked(answer.verdict, set.words(answer.sentence, { bold: true }), 13),
              ...(answer.why ? [{ ...set.words(answer.why), margin: margin(0, 4, 0, 0) }] : []),
            ],
            margin: margin(10, 6, 8, 6),
          }]],
        },
        layout: {
          hLineWidth: () => 0.8,
          vLineWidth: (v: number) => (v === 0 ? 5 : 0.8),
          hLineColor: INK,
          vLineColor: INK,
        },
        unbreakable: true,
      },
      ...report.sections.flatMap(section => sectionContent(section, set, width)),
    ],
  }
  pdfmake.setFonts({
    [FAMILY]: { normal, bold, italics, bolditalics },
    [WIDE]: { normal: wide, bold: wideBold, italics: wide, bolditalics: wideBold },
  })
  // Only what stands in the document is set: nothing is fetched, and no other file is read.
  pdfmake.setUrlAccessPolicy(() => false)
  pdfmake.setLocalAccessPolicy(path => Object.values(fonts).includes(path))
  return pdfmake.createPdf(document).getBuffer()
}

type Margin = [number, number, number, number]

/** Left, top, right, bottom, points. */
const margin = (...sides: Margin): Margin => sides

/** Sets words: each in the first font that has its letters. */
class Setting {
  constructor(private readonly font: fontkit.Font) {}

  words(text: string, also: Partial<ContentText> = {}): ContentText {
    const runs: { text: string, font: string }[] = []
    for (const letter of text) {
      const font = this.font.hasGlyphForCodePoint(letter.codePointAt(0) ?? 0) ? FAMILY : WIDE
      const last = runs.at(-1)
      if (last?.font === font) last.text += letter
      else runs.push({ text: letter, font })
    }
    return { text: runs, ...also }
  }

  marked(mark: Mark | 'none', words: ContentText, size = 9): Content {
    const svg = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 12 12" width="12" height="12">${MARK_SHAPES[mark].replaceAll('currentColor', MARK_COLOURS[mark])}</svg>`
    return {
      columns: [
        { svg, width: size, height: size, margin: [0, size / 8, 0, 0] },
        { ...words, fontSize: size, width: '*' },
      ],
      columnGap: 5,
    }
  }
}

function line(width: number, lineWidth: number): { canvas: [{ type: 'line', x1: number, y1: number, x2: number, y2: number, lineWidth: number, lineColor: string }] } {
  return { canvas: [{ type: 'line', x1: 0, y1: 0, x2: width, y2: 0, lineWidth, lineColor: INK }] }
}

function logoContent({ logo }: Report): Content[] {
  const read = logo === undefined ? undefined : readLogo(logo)
  if (!read) return []
  const fit: [number, number] = [120, 36]
  const picture = read.kind === 'png' ? { image: read.uri } : { svg: read.text }
  // A picture of either form; its types tell them one by one.
  return [{ ...picture, fit, width: 'auto' } as unknown as Content]
}

function sectionContent({ title, aside, note, blocks }: ReportSection, set: Setting, width: number): Content[] {
  return [
    {
      columns: [
        { ...set.words(title, { bold: true }), fontSize: 11.5, width: 'auto' },
        { ...set.words(aside ?? ''), color: QUIET, alignment: 'right', width: '*', margin: [0, 2, 0, 0] },
      ],
      columnGap: 10,
      margin: [0, 16, 0, 2],
      headlineLevel: 1,
    },
    { ...line(width, 0.7), margin: [0, 0, 0, 4] },
    ...(note ? [noteContent(note, set)] : []),
    ...blocks.map((block): Content => blockContent(block, set, width)),
  ]
}

function blockContent(block: Block, set: Setting, width: number): Content {
  const text = (words: string, mark?: Mark): Content => (mark ? set.marked(mark, set.words(words)) : set.words(words))
  switch (block.kind) {
    case 'text':
      return { stack: [text(block.text, block.mark)], margin: [0, 3, 0, 3] }
    case 'list':
      return {
        margin: [0, 2, 0, 2],
        stack: block.items.map((i): Content => {
          const words = set.words(i.then ? `${i.text} ${i.then}` : i.text)
          const item: Content = i.mark ? set.marked(i.mark, words) : { ul: [words], markerColor: QUIET }
          return { stack: [item], margin: [0, 1, 0, 2] }
        }),
      }
    case 'table':
      return tableContent(block, set)
    case 'curve':
      // It may stay on one page, which its types leave out.
      return {
        svg: curveSvg(block.curve, FAMILY),
        width: Math.min(width, CURVE_WIDTH),
        margin: [0, 4, 0, 0],
        unbreakable: true,
      } as Content
  }
}

/** Columns whose words are no longer take what they need; others share what is left. */
const SHORT_WORDS = 9

function tableContent({ columns, rows, foot }: Table, set: Setting): Content {
  const cell = (c: ReportCell, at: number): TableCell => {
    const words = set.words(c.text, c.isStrong ? { bold: true } : {})
    const told = c.mark ? set.marked(c.mark, words, 8.5) : words
    // What was set is text; a cell is content that may say more.
    return { ...(told as ContentText), fontSize: 8.5, alignment: columns[at]!.isFigure ? 'right' : 'left' } as TableCell
  }
  const words = columns.map((c, at) => (c.isFigure ? 0 : Math.max(...rows.map(row => row[at]?.text.length ?? 0), 0)))
  return {
    margin: [0, 2, 0, 4],
    table: {
      headerRows: 1,
      dontBreakRows: true,
      widths: columns.map((c, at) => (!c.isFigure && words[at]! > SHORT_WORDS ? '*' : 'auto')),
      body: [
        columns.map((c): TableCell => ({ ...set.words(c.name), color: QUIET, fontSize: 8, alignment: c.isFigure ? 'right' : 'left' })),
        ...rows.map(row => row.map(cell)),
        ...(foot ? [foot.map((c, at) => cell({ ...c, isStrong: true }, at))] : []),
      ],
    },
    layout: {
      hLineWidth: (h: number) => (h === 0 ? 0 : 0.5),
      vLineWidth: () => 0,
      hLineColor: HAIR,
      paddingLeft: (c: number) => (c === 0 ? 0 : 5),
      paddingRight: (c: number) => (c === columns.length - 1 ? 0 : 5),
    },
  }
}

/** Paragraphs, headings, lists and code of a note; emphasis within a line is set plain. */
function noteContent(note: string, set: Setting): Content {
  const told = noteTokens(note).flatMap((token): Content[] => {
    switch (token.type) {
      case 'heading':
        return [{ ...set.words(plainOf(token), { bold: true }), margin: [0, 4, 0, 1] }]
      case 'list':
        // The package’s tokens of a list have items.
        return [{ [token.ordered ? 'ol' : 'ul']: (token.items as Told[]).map(item => set.words(plainOf(item))), margin: [0, 2, 0, 2] } as unknown as Content]
      case 'paragraph':
      case 'blockquote':
      case 'code':
        return [{ ...set.words(plainOf(token)), margin: [0, 2, 0, 2] }]
      default:
        return []
    }
  })
  return { stack: told, margin: [8, 2, 0, 4] }
}

interface Told { type?: string, text?: string, tokens?: unknown[] }

/** The words of a token, without what marks them. */
function plainOf(token: unknown): string {
  // Each of them may be missing, and is looked at.
  const { tokens, text = '', type } = token as Told
  if (type === 'html') return ''
  return tokens && tokens.length > 0 ? tokens.map(plainOf).join('') : text
}
