/** A report as Markdown (GitHub's flavoured specification, for its tables). Curves are told in words: text has none. */
import type { Block, ReportCell, Curve, Mark, Report, Table } from '../../core/report/report'
import { runTime } from '../../core/values/said-times'

const MARK_WORDS: Record<Mark | 'none', string> = { held: '✓', short: '△', broken: '✗', none: '–' }

export function reportMarkdown(report: Report): string {
  const { title, subtitle, organisation, audience, about, answer, sections } = report
  const from = [organisation, audience && `for ${audience}`].filter(Boolean).join(' · ')
  const parts = [
    `# ${plain(title)}`,
    plain(subtitle),
    ...(from ? [plain(from)] : []),
    plain(about),
    `> **${MARK_WORDS[answer.verdict]} ${plain(answer.sentence)}**`,
    ...(answer.why ? [plain(answer.why)] : []),
    ...sections.flatMap(s => [
      `## ${plain(s.title)}`,
      ...(s.aside ? [`_${plain(s.aside)}_`] : []),
      ...(s.note ? [s.note.trim()] : []),
      ...s.blocks.map(blockText),
    ]),
  ]
  return `${parts.join('\n\n')}\n`
}

function blockText(block: Block): string {
  const marked = (text: string, mark?: Mark) => `${mark ? `${MARK_WORDS[mark]} ` : ''}${plain(text)}`
  switch (block.kind) {
    case 'text':
      return marked(block.text, block.mark)
    case 'list':
      return block.items.map(i => `- ${marked(i.text, i.mark)}${i.then ? ` ${plain(i.then)}` : ''}`).join('\n')
    case 'table':
      return tableText(block)
    case 'curve':
      return curveText(block.curve)
  }
}

function tableText({ columns, rows, foot }: Table): string {
  const line = (texts: readonly string[]) => `| ${texts.join(' | ')} |`
  const cell = ({ text, mark, isStrong }: ReportCell) => {
    const told = `${mark ? `${MARK_WORDS[mark]} ` : ''}${plain(text)}`
    return isStrong && told !== '' ? `**${told}**` : told
  }
  return [
    line(columns.map(c => plain(c.name))),
    line(columns.map(c => (c.isFigure ? '---:' : '---'))),
    ...[...rows, ...(foot ? [foot] : [])].map(row => line(row.map(cell))),
  ].join('\n')
}

/** The largest of each line, and when. */
function curveText({ staffs, fromS, binS }: Curve): string {
  return staffs
    .flatMap(({ name, unit, lines }) =>
      lines.map((line) => {
        const most = line.values.reduce<number>((at, v, b) => ((v ?? -1) > (line.values[at] ?? -1) ? b : at), 0)
        const value = line.values[most] ?? null
        return `- ${plain(name)}, ${plain(line.name)}: ${value === null ? 'nothing' : `at most ${Number(value.toPrecision(3))}${UNITS[unit]} at ${runTime(fromS + most * binS)}`}`
      }))
    .join('\n')
}

const UNITS = { users: '', ms: ' ms', perSecond: '/s', share: '' } as const

/** Letters that would mean something are only letters. */
function plain(text: string): string {
  return text.replace(/([\\`*_[\]<>|#~])/g, '\\$1').replace(/\s*\n\s*/g, ' ')
}
