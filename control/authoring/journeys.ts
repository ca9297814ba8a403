/** Journeys as their authors handle them: listed, read, tried, and made of captures, descriptions and addresses. */
import type { JourneyLine, JourneyView } from '../../api/views'
import type { HarChoices } from '../../core/formats/har-to-journey'
import type { OpenApiReview } from '../../core/formats/openapi'
import { meanRoundThinkMs, STAGES, stepsOf, type Journey } from '../../core/journey/journey'
import { ControlError, notFound } from '../errors'
import type { GeneratorHub } from '../link/generator-hub'
import type { Converted, Imports } from '../imports/imports'
import type { MachineStore } from '../store/machines'
import type { Offers } from '../library/check-plan'
import type { Library } from '../library/library'
import { quickStart, targetFor, type QuickAsk, type QuickStarted } from './quick-start'
import type { Tried, Trials } from '../library/trial'

export interface JourneysOptions {
  library: Library
  imports: Pick<Imports, 'convertHar' | 'reviewOpenApi' | 'convertOpenApi' | 'urls'>
  trials: Trials
  hub: Pick<GeneratorHub, 'connections'>
  machines: Pick<MachineStore, 'machine'>
  offers: () => Promise<Offers>
}

/** What an import made; remarks say what it could not take over. */
export interface Imported {
  journeyId: string
  targetId: string
  remarks: string[]
}

export class Journeys {
  constructor(private readonly options: JourneysOptions) {}

  lines(): JourneyLine[] {
    const { library } = this.options
    const plans = library.plans()
    return library.store.journeys().map(({ id, version, savedAt, journey }) => ({
      id,
      version,
      savedAt,
      name: journey.name,
      kind: journey.kind,
      tags: journey.tags ?? [],
      passThinkMs: meanRoundThinkMs(journey),
      steps:
        journey.kind === 'http' ? STAGES.reduce((sum, s) => sum + stepsOf(journey, s).length, 0) : journey.steps.length,
      plans: plans.filter(p => p.plan.groups.some(g => g.journeyId === id)).map(p => p.plan.name),
      problems: library.problemsOf(journey).filter(p => p.weight === 'inTheWay').length,
    }))
  }

  view(id: string, version?: number): JourneyView {
    const { library, hub, machines } = this.options
    const { journey, version: shown, savedAt } = library.journey(id, version)
    return {
      journey,
      version: shown,
      savedAt,
      history: library.store.journeyHistory(id),
      problems: library.problemsOf(journey),
      feeds: library.feeds(),
      targets: library.targets(),
      idle: [...hub.connections.values()]
        .filter(c => c.work.state === 'idle' || c.work.state === 'finished')
        .flatMap((c) => {
          const machine = machines.machine(c.machineId)
          return machine ? [{ machineId: c.machineId, name: machine.name, location: machine.location }] : []
        }),
    }
  }

  /** One user goes once through a journey. @param machineId an enrolled generator's; left out: here */
  try(journey: Journey, targetId: string, machineId?: string): Promise<Tried> {
    const { library, trials, hub } = this.options
    const target = library.target(targetId)
    if (!target) throw notFound(`target ${targetId}`)
    if (machineId === undefined) return trials.here(journey, target)
    const connection = hub.connections.get(machineId)
    if (!connection) throw notFound(`generator ${machineId} connected now`)
    return trials.on(connection, journey, target)
  }

  /** The journey of a capture, saved, with a target at its main host. */
  async importHar(file: string, choices: HarChoices): Promise<Imported> {
    return this.keep(await this.options.imports.convertHar(file, choices))
  }

  /**
   * @param file of the document @param ids operations chosen; left out: what there is to choose from
   * @param baseUrl where a relative server of the document stands
   */
  async importOpenApi(file: string, ids?: string[], baseUrl?: string): Promise<OpenApiReview | Imported> {
    const { imports } = this.options
    if (!ids) return imports.reviewOpenApi(file)
    const converted = await imports.convertOpenApi(file, ids)
    return this.keep({ ...converted, baseUrl: absoluteBase(converted.baseUrl, baseUrl) })
  }

  async quickStart(text: string, ask: QuickAsk = {}): Promise<QuickStarted> {
    const { library, imports, offers } = this.options
    return quickStart(library, await imports.urls(text), await offers(), ask)
  }

  /** Credentials go into the target's secrets, and nowhere else. */
  private keep({ journey, baseUrl, remarks, secrets }: Omit<Converted, 'hosts'>): Imported {
    const { library } = this.options
    if (journey.round.length === 0)
      throw new ControlError('nothing-kept', 400, 'Nothing would be left in the journey.', 'Keep at least one request.')
    const target = targetFor(library, baseUrl, new URL(baseUrl).host)
    const known = new Set(target.secretNames ?? [])
    const fresh = Object.fromEntries(Object.entries(secrets).filter(([name]) => !known.has(name)))
    if (Object.keys(fresh).length > 0) library.saveTarget(target, fresh)
    const notes =
      remarks.length > 0 ? { notes: `Not converted:\n${remarks.map(r => `- ${r}`).join('\n')}`.slice(0, 10_000) } : {}
    const saved = library.newJourney({ ...journey, ...notes })
    return { journeyId: saved.id, targetId: target.id, remarks }
  }
}

/** @param server as the document has it; it may be relative to where the document stands @throws ControlError */
function absoluteBase(server: string, given: string | undefined): string {
  try {
    if (server.includes('{')) return new URL(given ?? '').href.replace(/\/$/, '')
    return new URL(server, given === undefined || given === '' ? undefined : given).href.replace(/\/$/, '')
  }
  catch {
    throw new ControlError(
      'base-url',
      400,
      server === ''
        ? 'The document names no server.'
        : `The document’s server is “${server}”, relative to where it was published.`,
      'Write the address of the API, like https://api.example.',
    )
  }
}
