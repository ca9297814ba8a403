/** What a link opens: a run as it stands, its report, runs beside each other; without names unless they were chosen. */
import type { SharedView } from '../../api/views'
import { withoutNames, type Aliases } from '../../core/report/shared'
import type { Wall } from '../../core/result/wall'
import type { Paper } from '../../core/report/report'
import { ControlError } from '../errors'
import type { ReportForm } from '../report/printer'
import type { Reports } from '../run/reports'
import { MOST_IN_HAR, type Runs } from '../run/runs'
import type { Walls } from '../run/walls'
import type { SharedLink } from '../store/shared-links'

export interface SharedThingsOptions {
  runs: Pick<Runs, 'view' | 'har'>
  reports: Pick<Reports, 'print' | 'printComparison'>
  walls: Pick<Walls, 'of'>
  /** Names and addresses of private hosts. */
  hostNames: () => string[]
}

const PAPER: Paper = 'A4'

export class SharedThings {
  constructor(private readonly options: SharedThingsOptions) {}

  view({ opens, endsAt }: SharedLink): SharedView {
    const lines = opens.runs.map(id => this.options.runs.view(id))
    const { kind, showsExchanges } = opens
    return {
      kind,
      runs: lines.map(({ line }) => ({ id: line.id, name: line.name || line.planName, question: line.question })),
      endsAt,
      hasAnswer: lines.every(({ summary }) => summary !== undefined),
      hasExchanges: showsExchanges && lines.every(l => l.exchangesClearedAt === undefined && l.clearedAt === undefined),
    }
  }

  async wall({ opens }: SharedLink): Promise<Wall> {
    if (opens.kind !== 'run') throw notShared('a run as it stands')
    return withoutNames(await this.options.walls.of(opens.runs[0]!), this.aliasesOf(opens))
  }

  print({ opens }: SharedLink, form: ReportForm): Promise<string | Uint8Array> {
    const { reports } = this.options
    const aliases = this.aliasesOf(opens)
    const { kind, runs, users, metric } = opens
    if (kind !== 'comparison') return reports.print(runs[0]!, form, undefined, report => withoutNames(report, aliases))
    const wish = { runs, ...(users === undefined ? {} : { users }), ...(metric === undefined ? {} : { metric }) }
    return reports.printComparison(wish, form, PAPER, report => withoutNames(report, aliases))
  }

  async exchanges({ opens }: SharedLink): Promise<string> {
    const [run] = opens.runs
    if (!opens.showsExchanges || opens.runs.length !== 1 || run === undefined) throw notShared('exchanges')
    const text = await this.options.runs.har(run, { places: { locations: [], machines: [] }, most: MOST_IN_HAR })
    return withoutNames(text, this.aliasesOf(opens))
  }

  /** Machines by their places in a run; hosts of one's own, which are named in its set-up and its events. */
  private aliasesOf({ runs, showsMachines }: SharedLink['opens']): Aliases {
    if (showsMachines) return new Map()
    const aliases = new Map<string, string>()
    for (const name of this.options.hostNames()) aliases.set(name, 'a host')
    for (const id of runs)
      this.options.runs.view(id).machines.forEach(({ id: machine, name, facts }, i) => {
        for (const known of [machine, name, facts?.hostname]) if (known) aliases.set(known, `machine ${i + 1}`)
      })
    return aliases
  }
}

const notShared = (what: string) =>
  new ControlError('role', 403, `This link does not open ${what}.`, 'Ask the person who sent it for another.')
