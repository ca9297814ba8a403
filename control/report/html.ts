/** A report as one page of HTML that needs nothing else: charts as SVG, tables that sort, the font within. */
import Mustache from 'mustache'
import { MARK_SHAPES } from '../../core/report/mark-shapes'
import type { Block, ReportCell, Curve, Mark, Report, Table } from '../../core/report/report'
import { curveSvg } from './curve-svg'
import { PAGE, PAGE_SCRIPT, PAGE_STYLE } from './html-page'
import { readLogo } from './logo'
import { MARK_COLOURS } from './look'
import { noteHtml } from './notes'

const FAMILY = 'Archivo'

/** @param font the letters of the page, WOFF2 */
export function reportHtml(report: Report, font: Uint8Array): string {
  return Mustache.render(PAGE, {
    ...report,
    logo: logoHtml(report),
    answer: { ...report.answer, mark: markHtml(report.answer.verdict) },
    sections: report.sections.map(s => ({ ...s, note: s.note && noteHtml(s.note), blocks: s.blocks.map(blockView) })),
    size: report.paper === 'A4' ? 'A4' : 'letter',
    style: PAGE_STYLE,
    script: PAGE_SCRIPT,
    font: Buffer.from(font).toString('base64'),
  })
}

function logoHtml({ logo }: Report): string | undefined {
  const read = logo === undefined ? undefined : readLogo(logo)
  if (!read) return undefined
  const uri = read.kind === 'png' ? read.uri : `data:image/svg+xml;base64,${Buffer.from(read.text).toString('base64')}`
  return `<img class="logo" alt="" src="${uri}">`
}

/** What the template asks for: one of these is there. */
function blockView(block: Block): object {
  switch (block.kind) {
    case 'text':
      return { text: { ...block, mark: block.mark && markHtml(block.mark) } }
    case 'list':
      return { list: { items: block.items.map(i => ({ ...i, mark: i.mark && markHtml(i.mark) })) } }
    case 'table':
      return { table: tableView(block) }
    case 'curve':
      return { curve: { svg: curveSvg(block.curve, FAMILY), says: curveWords(block.curve) } }
  }
}

function tableView({ columns, rows, foot }: Table): object {
  const cells = (row: readonly ReportCell[]) =>
    row.map((cell, c) => ({
      ...cell,
      isFigure: columns[c]?.isFigure,
      hasBy: cell.by !== undefined,
      mark: cell.mark && markHtml(cell.mark),
    }))
  return {
    columns: columns.map(c => ({ ...c, sorts: c.name !== '' })),
    rows: rows.map(row => ({ cells: cells(row) })),
    foot: foot && { cells: cells(foot) },
  }
}

const curveWords = ({ staffs }: Curve): string => staffs.map(s => s.name).join(', ')

function markHtml(mark: Mark | 'none'): string {
  return `<svg class="mark" style="color:${MARK_COLOURS[mark]}" width="12" height="12" viewBox="0 0 12 12" aria-hidden="true">${MARK_SHAPES[mark]}</svg>`
}
