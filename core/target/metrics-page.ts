/**
 * A page of metrics as text: OpenMetrics 1.0 (its ABNF), or the older text form, version 0.0.4. Read as it is meant to
 * be written, with what is wrong said by its line; of a page of thousands only what is wanted is taken apart.
 */

export interface MetricSample {
  name: string
  labels: Readonly<Record<string, string>>
  value: number
  /** Its own stamp, ms since 1970, where the page gives one. */
  atMs?: number
  /** Its value is what came since the one before; else it stands for itself, or counts on. */
  isGrowth?: boolean
  /** Of an exemplar beside it: labels and value. */
  exemplar?: { labels: Readonly<Record<string, string>>, value: number }
}

/** What a page says of the metrics whose names begin alike. */
export interface Family {
  type: string
  unit?: string
  help?: string
}

export interface MetricsPage {
  samples: MetricSample[]
  families: Map<string, Family>
  isOpenMetrics: boolean
}

/** It is no such page. The sentence names the line. */
export class PageError extends Error {
  override name = 'PageError'
}

const TYPES = ['counter', 'gauge', 'histogram', 'summary', 'untyped', 'unknown', 'info', 'stateset', 'gaugehistogram']
const NAME = /[a-zA-Z_:][a-zA-Z0-9_:]*/y
const LABEL = /[ \t]*([a-zA-Z_][a-zA-Z0-9_]*)[ \t]*=[ \t]*"((?:[^"\\\n]|\\[\\"n])*)"[ \t]*(,?)/y
const NO_LABELS: Readonly<Record<string, string>> = {}
const ESCAPES: Readonly<Record<string, string>> = { '\\\\': '\\', '\\"': '"', '\\n': '\n' }
const LINE_END = '\n'

/**
 * @param text of the page @param wanted names of samples that are taken; left out: all
 * @param isOpenMetrics as its media type says; left out: whether it ends as such a page must
 * @throws PageError when it is none
 */
export function readMetricsPage(
  text: string,
  wanted?: ReadonlySet<string>,
  isOpenMetrics = /(?:^|\n)# EOF\n?$/.test(text),
): MetricsPage {
  const page: MetricsPage = { samples: [], families: new Map(), isOpenMetrics }
  let number = 0
  let hasEnded = false
  for (let from = 0; from < text.length;) {
    const newline = text.indexOf(LINE_END, from)
    const end = newline < 0 ? text.length : newline
    const start = from
    number++
    from = end + 1
    if (end === start || (!isOpenMetrics && text.slice(start, end).trim() === '')) {
      if (isOpenMetrics) throw new PageError(`Line ${number} is empty.`)
      continue
    }
    if (hasEnded) throw new PageError(`Line ${number} comes after the end, “# EOF”.`)
    if (text.charCodeAt(start) === HASH) hasEnded = readComment(text.slice(start, end), page, number)
    else readSample(text, start, text[end - 1] === '\r' ? end - 1 : end, page, number, wanted)
  }
  if (isOpenMetrics && !hasEnded) throw new PageError('It breaks off: a page of OpenMetrics ends with “# EOF”.')
  return page
}

const HASH = '#'.charCodeAt(0)
const BRACE = '{'.charCodeAt(0)

/** @returns whether the page ends with it */
function readComment(line: string, { families, isOpenMetrics }: MetricsPage, number: number): boolean {
  if (isOpenMetrics && line === '# EOF') return true
  const told = /^#[ \t]+(TYPE|HELP|UNIT)[ \t]+([a-zA-Z_:][a-zA-Z0-9_:]*)(?:[ \t]+(.*))?$/.exec(line)
  if (!told) {
    // In the older form everything else is a remark.
    if (isOpenMetrics) throw new PageError(`Line ${number} is neither TYPE, HELP, UNIT nor “# EOF”.`)
    return false
  }
  const [, what, name = '', says = ''] = told
  const family = families.get(name) ?? { type: 'untyped' }
  if (what === 'TYPE') {
    if (!TYPES.includes(says)) throw new PageError(`Line ${number}: “${says}” is no type of a metric.`)
    family.type = says
  }
  else if (what === 'UNIT') family.unit = says
  else family.help = says.replace(/\\[\\"n]/g, escape => ESCAPES[escape]!)
  families.set(name, family)
  return false
}

/** Where it stands, without a copy of the line. */
function readSample(
  text: string,
  start: number,
  end: number,
  page: MetricsPage,
  number: number,
  wanted: ReadonlySet<string> | undefined,
): void {
  NAME.lastIndex = start
  if (!NAME.test(text)) throw new PageError(`Line ${number} begins with no name of a metric.`)
  const nameEnd = NAME.lastIndex
  const name = text.slice(start, nameEnd)
  if (wanted && !wanted.has(name)) return
  const { labels, at } = labelsAt(text, nameEnd, end, number)
  const [own = '', beside] = text.slice(at, end).split(/[ \t]#[ \t]/, 2)
  const [value, stamp, ...rest] = own.trim().split(/[ \t]+/)
  if (value === undefined || value === '' || rest.length > 0)
    throw new PageError(`Line ${number}: after the name come a value and at most one moment.`)
  const sample: MetricSample = { name, labels, value: numberOf(value, number) }
  if (stamp !== undefined) sample.atMs = numberOf(stamp, number) * (page.isOpenMetrics ? 1000 : 1)
  const exemplar = beside === undefined || !page.isOpenMetrics ? undefined : exemplarOf(beside, number)
  if (exemplar) sample.exemplar = exemplar
  page.samples.push(sample)
}

/** @returns labels, and where what follows them begins @throws PageError */
export function labelsAt(text: string, from: number, end: number, number: number) {
  let at = from
  while (at < end && (text[at] === ' ' || text[at] === '\t')) at++
  if (text.charCodeAt(at) !== BRACE) return { labels: NO_LABELS, at: from }
  const labels: Record<string, string> = {}
  at++
  for (let isLast = false; ;) {
    while (text[at] === ' ' || text[at] === '\t') at++
    if (text[at] === '}') return { labels, at: at + 1 }
    LABEL.lastIndex = at
    const label: RegExpExecArray | null = isLast ? null : LABEL.exec(text)
    if (!label || LABEL.lastIndex > end) throw new PageError(`Line ${number}: its labels cannot be read.`)
    at = LABEL.lastIndex
    isLast = label[3] === ''
    labels[label[1]!] = label[2]!.includes('\\') ? label[2]!.replace(/\\[\\"n]/g, e => ESCAPES[e]!) : label[2]!
  }
}

function exemplarOf(text: string, number: number): NonNullable<MetricSample['exemplar']> {
  const { labels, at } = labelsAt(text, 0, text.length, number)
  const [value = ''] = text.slice(at).trim().split(/[ \t]+/)
  return { labels, value: numberOf(value, number) }
}

const INFINITE = /^([+-]?)inf(?:inity)?$/i

function numberOf(text: string, line: number): number {
  const infinite = INFINITE.exec(text)
  if (infinite) return infinite[1] === '-' ? Number.NEGATIVE_INFINITY : Number.POSITIVE_INFINITY
  const n = /^nan$/i.test(text) ? Number.NaN : Number(text)
  if (Number.isNaN(n) && !/^nan$/i.test(text)) throw new PageError(`Line ${line}: “${text}” is no number.`)
  return n
}
