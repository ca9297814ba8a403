/** Reports of runs: what each is to show, what it tells of, and the file that is made of it. */
import type { ReportView } from '../../api/views'
import { stepKey } from '../../core/objectives/subject'
import { timedObjective } from '../../core/objectives/judge'
import { measuresOf } from '../../core/journey/measures'
import { reportOfComparison } from '../../core/report/of-comparison'
import { reportOfRun } from '../../core/report/of-run'
import type { Paper, Report } from '../../core/report/report'
import type { CurveCourses, ReportedRun, ReportWindow, TargetLine } from '../../core/report/reported-run'
import { allSections, USUAL_WISH, type ReportWish, type SectionId } from '../../core/report/wish'
import type { Dimension } from '../../core/result/slices'
import type { PERCENTILES, StaffWish } from '../../core/result/staff'
import type { RunSummary } from '../../core/result/summary'
import type { RunDocument } from '../../core/run/document'
import { ControlError, notFound } from '../errors'
import type { Printer, ReportForm } from '../report/printer'
import { readLogo } from '../report/logo'
import type { ReportStore, ReportTemplate } from '../store/reports'
import type { CompareWish } from './comparing'
import type { Runs } from './runs'

export interface ReportsOptions {
  store: ReportStore
  runs: Pick<Runs, 'stored' | 'view' | 'slices' | 'failures' | 'courses' | 'targetAccount' | 'threeWay' | 'compare'>
  printer: Printer
}

const asItIs = (report: Report): Report => report

/** Points of a curve: more than paper shows. */
const CURVE_BINS = 600
const TARGET_POINTS = 600
/** Letters of a template's name. */
const MOST_NAME = 80

export class Reports {
  constructor(private readonly options: ReportsOptions) {}

  /** What the report of a run is to show, and by which names there are others. */
  view(id: number): ReportView {
    const { store, runs } = this.options
    runs.stored(id)
    const own = store.wishOf(id)
    return {
      wish: own ?? this.usualOf(id),
      isOwn: own !== undefined,
      templates: store.templates().map(({ name, isUsual, wish }) => ({ name, isUsual, wish })),
    }
  }

  /** @param wish undefined: as usual again */
  setWish(id: number, wish: ReportWish | undefined): void {
    this.options.runs.stored(id)
    if (wish) holdWish(wish)
    this.options.store.setWishOf(id, wish)
  }

  saveTemplate(template: ReportTemplate): void {
    holdWish(template.wish)
    // A title and a subtitle are one run's; a template is for many.
    const { title: _, subtitle: __, ...wish } = template.wish
    const name = template.name.trim()
    if (name === '' || name.length > MOST_NAME)
      throw new ControlError('report', 400, 'A template needs a name.', `Give it one of up to ${MOST_NAME} letters.`)
    this.options.store.saveTemplate({ ...template, name, wish })
  }

  removeTemplate(name: string): void {
    if (!this.options.store.removeTemplate(name)) throw notFound(`report template “${name}”`)
  }

  /**
   * @param template by whose choices; left out: the run's own, else the usual ones @param change of what is told, for
   * whom it is not all meant
   */
  async print(id: number, form: ReportForm, template?: string, change = asItIs): Promise<string | Uint8Array> {
    const { store, printer } = this.options
    const own = template === undefined ? store.wishOf(id) : store.templates().find(t => t.name === template)?.wish
    if (template !== undefined && own === undefined) throw notFound(`report template “${template}”`)
    const wish = own ?? this.usualOf(id)
    return printer.print(async () => change(reportOfRun(await this.reported(id, wish), wish)), form)
  }

  /** A run that has a baseline to stand beside says how, where nobody chose otherwise. */
  private usualOf(id: number): ReportWish {
    const kept = this.options.store.templates().find(t => t.isUsual)?.wish
    if (kept) return kept
    const { baseline } = this.options.runs.view(id).line
    const sections = USUAL_WISH.sections.map(s => (s.id === 'baseline' ? { ...s, isShown: baseline !== undefined } : s))
    return { ...USUAL_WISH, sections }
  }

  /** Runs beside each other, as a file. */
  async printComparison(
    wish: CompareWish,
    form: ReportForm,
    paper: Paper,
    change = asItIs,
  ): Promise<string | Uint8Array> {
    const { runs, printer } = this.options
    return printer.print(async () => {
      const compared = await runs.compare(wish)
      return change(reportOfComparison(compared, compared.runs, paper))
    }, form)
  }

  /** Only what is shown is asked for. */
  private async reported(id: number, wish: ReportWish): Promise<ReportedRun> {
    const { runs } = this.options
    const { line, document, summary, changes, machines, planned, clearedAt } = runs.view(id)
    if (!summary) throw new ControlError('not-judged', 409, `Run ${id} has no answer yet.`, 'Wait until it has settled.')
    const shown = new Set(allSections(wish.sections).filter(s => s.isShown).map(s => s.id))
    const measured = (section: SectionId) => shown.has(section) && clearedAt === undefined && summary.lengthS > 0
    const window = windowOf(wish, summary)
    const slices = async (...dimensions: Dimension[]) =>
      Object.fromEntries(
        await Promise.all(
          dimensions.map(async d => [d, await runs.slices(id, window.fromS, window.toS, { rows: [d] })] as const),
        ),
      )
    const [steps, places, failures, curve, target, threeWay, compared] = await Promise.all([
      measured('steps') ? slices('step') : {},
      measured('places') ? slices('group', 'location', 'network', ...(document.clients?.length ? ['client' as const] : [])) : {},
      measured('failures') ? runs.failures(id, window.fromS, window.toS, {}) : undefined,
      measured('curve') ? this.curve(id, document, summary) : undefined,
      measured('target') ? this.target(id, window) : undefined,
      measured('target') || measured('evidence') ? runs.threeWay(id) : undefined,
      measured('baseline') && line.baseline !== undefined ? runs.compare({ runs: [line.baseline, id] }) : undefined,
    ])
    const startAt = line.startAt ?? line.createdAt
    return {
      id,
      name: line.name,
      build: line.build,
      startAt,
      isGivenBack: clearedAt !== undefined,
      document,
      summary,
      window,
      slices: { ...steps, ...places },
      ...(failures ? { failures } : {}),
      ...(curve ? { curve } : {}),
      planned,
      ...(target ? { target } : {}),
      ...(threeWay ? { threeWay: threeWay.steps } : {}),
      ...(compared ? { compared } : {}),
      isBaseline: line.isBaseline,
      changes,
      machines: machines.map(m => ({
        name: m.name,
        location: m.location,
        type: m.type,
        ms: Math.max(0, (m.goneAt ?? line.endedAt ?? startAt) - (m.allocatedAt ?? m.askedAt)),
        cost: m.cost,
      })),
      cost: line.cost,
    }
  }

  private async curve(id: number, document: RunDocument, summary: RunSummary): Promise<CurveCourses> {
    const staffs: StaffWish[] = [
      { statistics: ['present'], measure: 'users' },
      drawnOf(document),
      { statistics: ['perSecond'], measure: 'failed' },
    ]
    const wish = { fromS: 0, toS: summary.lengthS, most: CURVE_BINS, staffs }
    const { courses, ...bins } = await this.options.runs.courses(id, wish)
    const [users, objective, failed] = courses
    if (!users || !objective || !failed) throw new Error('Each staff that is asked for has a course.')
    return { ...bins, users, objective, failed }
  }

  private async target(id: number, { fromS, toS }: ReportWindow): Promise<TargetLine[]> {
    const { series } = await this.options.runs.targetAccount(id, { most: TARGET_POINTS })
    return series.flatMap(({ name, unit = '', lines }) =>
      lines.map(({ split, atS, values, recovery }): TargetLine => {
        const own = values.filter((v, i): v is number => v !== null && atS[i]! >= fromS && atS[i]! < toS)
        return {
          name,
          split,
          unit,
          ...(own.length > 0 ? { mean: own.reduce((a, b) => a + b, 0) / own.length, largest: Math.max(...own) } : {}),
          ...(recovery ? { recovery } : {}),
        }
      }))
  }
}

/** @throws ControlError where it names what cannot be shown */
function holdWish({ over, logo }: ReportWish): void {
  if (typeof over === 'object' && over.fromS >= over.toS)
    throw new ControlError('window', 400, `${over.fromS} to ${over.toS} s is no window.`, 'Give a first second that comes before the last.')
  if (logo !== undefined && !readLogo(logo))
    throw new ControlError('report', 400, 'The logo is no picture that can be read.', 'Choose a PNG or an SVG.')
}

function windowOf({ over }: ReportWish, { answer, lengthS }: RunSummary): ReportWindow {
  const whole = { fromS: 0, toS: Math.max(1, lengthS) }
  if (over === 'whole') return whole
  if (over !== 'judged') return { fromS: over.fromS, toS: Math.max(over.fromS + 1, Math.min(over.toS, whole.toS)) }
  if (!answer.settled) return whole
  const levels = answer.judgements.map(j => j.level).sort((a, b) => b.users - a.users)
  const [highest] = levels
  return highest ? { fromS: highest.fromS, toS: highest.toS, users: highest.users } : whole
}

/** What the first objective about a time is about; where there is none, all requests. */
function drawnOf({ plan, journeys }: RunDocument): StaffWish {
  const timed = timedObjective(plan.objectives)
  if (!timed) return { statistics: ['p95'], measure: 'answered' }
  const { metric, step, journeyId, group, location } = timed.objective
  const keys = step === undefined
    ? []
    : journeys
        .filter(j => (journeyId === undefined || j.id === journeyId) && measuresOf(j).some(m => m.name === step))
        .map(j => stepKey(j.id, step))
  return {
    // An objective about a time is about one of these.
    statistics: [metric as keyof typeof PERCENTILES | 'mean'],
    measure: 'answered',
    only: {
      ...(step === undefined ? {} : { step: keys }),
      ...(journeyId === undefined ? {} : { journey: [journeyId] }),
      ...(group === undefined ? {} : { group: [group] }),
      ...(location === undefined ? {} : { location: [location] }),
    },
  }
}
