/** Journeys as their authors handle them: listed, read, tried, and made of captures, descriptions and addresses. */
import type { JourneyLine, JourneyView } from '../../api/views'
import type { HarChoices } from '../../core/formats/har-to-journey'
import { OpenApiError, openApiToJourney, readOpenApi, reviewOpenApi, type OpenApiReview } from '../../core/formats/openapi'
import { meanRoundThinkMs, STAGES, stepsOf, type HttpJourney, type Journey } from '../../core/journey/journey'
import { ControlError, notFound } from '../errors'
import type { GeneratorHub } from '../fleet/generator-hub'
import type { Imports } from '../imports/imports'
import type { MachineStore } from '../store/machines'
import type { Offers } from './check-plan'
import type { Library } from './library'
import { quickStart, targetFor, type QuickStarted } from './quick-start'
import type { Tried, Trials } from './trial'

export interface JourneysOptions {
  library: Library
  imports: Pick<Imports, 'convertHar'>
  trials: Trials
  hub: Pick<GeneratorHub, 'connections'>
  machines: Pick<MachineStore, 'machine'>
  offers: () => Promise<Offers>
}

/** What an import made; remarks say what it could not take over. */
export interface Imported { journeyId: string, targetId: string, remarks: string[] }

export class Journeys {
  constructor(private readonly options: JourneysOptions) {}

  lines(): JourneyLine[] {
    const { library } = this.options
    const plans = library.plans()
    return library.store.journeys().map(({ id, version, savedAt, journey }) => ({
      id, version, savedAt, name: journey.name, kind: journey.kind, tags: journey.tags ?? [], passThinkMs: meanRoundThinkMs(journey),
      steps: journey.kind === 'http' ? STAGES.reduce((sum, s) => sum + stepsOf(journey, s).length, 0) : journey.steps.length,
      plans: plans.filter(p => p.plan.groups.some(g => g.journeyId === id)).map(p => p.plan.name), problems: library.problemsOf(journey).filter(p => p.weight === 'inTheWay').length,
    }))
  }

  view(id: string, version?: number): JourneyView {
    const { library, hub, machines } = this.options
    const { journey, version: shown, savedAt } = library.journey(id, version)
    return {
      journey, version: shown, savedAt, history: library.store.journeyHistory(id), problems: library.problemsOf(journey), feeds: library.feeds(), targets: library.targets(),
      idle: [...hub.connections.values()].filter(c => c.work.state === 'idle' || c.work.state === 'finished').flatMap((c) => {
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
    const { journey, baseUrl, remarks } = await this.options.imports.convertHar(file, choices)
    return this.keep(journey, baseUrl, remarks)
  }

  /** @param ids operations chosen; left out: what there is to choose from */
  importOpenApi(text: string, ids?: string[]): OpenApiReview | Imported {
    try {
      const api = readOpenApi(text)
      if (!ids) return reviewOpenApi(api)
      const { journey, baseUrl, remarks } = openApiToJourney(api, ids)
      return this.keep(journey, baseUrl || 'http://localhost', remarks)
    }
    catch (error) {
      if (error instanceof OpenApiError) throw new ControlError('openapi', 400, error.message, error.remedy)
      throw error
    }
  }

  async quickStart(text: string): Promise<QuickStarted> {
    return quickStart(this.options.library, text, await this.options.offers())
  }

  private keep(journey: HttpJourney, baseUrl: string, remarks: string[]): Imported {
    const { library } = this.options
    if (journey.round.length === 0) throw new ControlError('nothing-kept', 400, 'Nothing would be left in the journey.', 'Keep at least one request.')
    const target = targetFor(library, baseUrl, new URL(baseUrl).host)
    const notes = remarks.length > 0 ? { notes: `Not converted:\n${remarks.map(r => `- ${r}`).join('\n')}`.slice(0, 10_000) } : {}
    const saved = library.saveJourney({ ...journey, ...notes, id: library.freeId(journey.name, id => library.store.journey(id) !== undefined) }, 0)
    return { journeyId: saved.id, targetId: target.id, remarks }
  }
}
