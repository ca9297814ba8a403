/** What runs were set up with, thing by thing, so that what differed is seen before any difference of figures. */
import { printDuration } from '../load/phrase'
import { runLengthMs } from '../plan/length'
import { peakOfPlan } from '../plan/peak'
import { planInUsers } from '../plan/expected'
import { printObjective } from '../objectives/sentence'
import type { RunDocument } from '../run/document'

export interface SetUpFact {
  what: string
  /** As it is shown. */
  says: string
  /** What makes it the same as another's. */
  is: string
}

/** A run as it was set up. */
export interface SetUp {
  document: RunDocument
  /** Which build of the target was under load; left out or empty: nobody said. */
  build?: string
}

/** Everything that can change what a run measures. */
export function setUpOf({ document, build = '' }: SetUp): SetUpFact[] {
  const { plan, target, journeys, journeyVersions = {}, feeds = {}, networks = [], clients = [], fleet } = document
  const fact = (what: string, says: string, is: unknown = says): SetUpFact => ({ what, says, is: JSON.stringify(is) })
  const inUsers = planInUsers(plan, journeys)
  const machines = plan.locations.map(({ code }) => {
    const own = fleet.filter(o => o.location === code)
    return `${code} ${own.map(o => `${o.machines} ${o.type.name}`).join(' + ') || '0'}`
  })
  return [
    fact('plan', plan.name),
    fact('question', plan.question),
    fact('target', `${target.name}, ${target.baseUrl}`, [target.id, target.baseUrl, target.addresses]),
    fact('build under load', build || 'not said', build),
    fact('load', `${peakOfPlan(inUsers)} users, ${printDuration(runLengthMs(document))}`, plan.groups),
    fact('placement', plan.locations.map(l => l.code).join(', '), plan.placement),
    fact('networks', networks.map(n => n.name).join(', ') || 'direct', [plan.networks, networks]),
    fact('clients', clients.map(c => c.name).join(', ') || 'none', clients),
    ...journeys.map(j =>
      fact(`journey ${j.name}`, journeyVersions[j.id] === undefined ? 'as it was' : `version ${journeyVersions[j.id]}`, j)),
    fact('feeds', Object.entries(feeds).map(([id, { rows }]) => `${id}, ${rows} rows`).join('; ') || 'none', feeds),
    fact('objectives', plan.objectives.map(o => printObjective(o, journeys)).join('; ') || 'none', plan.objectives),
    fact('machines', machines.join(', '), machines),
    fact('rehearsal', plan.rehearse ? 'before the load' : 'none', plan.rehearse),
    fact('seed', String(plan.seed)),
  ]
}

export interface ComparedFact {
  what: string
  /** Of each run in turn; empty: it has none. */
  says: string[]
  /** Whether it is unlike that of the first. */
  differs: boolean[]
}

/** Thing by thing, the first run being what the others are held against. */
export function comparedSetUps(runs: readonly SetUp[]): ComparedFact[] {
  const all = runs.map(setUpOf)
  const names = [...new Set(all.flatMap(facts => facts.map(f => f.what)))]
  return names.map((what) => {
    const own = all.map(facts => facts.find(f => f.what === what))
    return { what, says: own.map(f => f?.says ?? ''), differs: own.map(f => f?.is !== own[0]?.is) }
  })
}

/** They asked the same of the same with the same: one repeats the other. */
export function isRepeat(one: SetUp, other: SetUp): boolean {
  return comparedSetUps([one, other]).every(({ differs }) => !differs[1])
}
