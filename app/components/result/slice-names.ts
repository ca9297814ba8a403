/** What the values of a run's dimensions are called, and which of them there are. */
import { PLAIN } from '~~/core/client/client'
import { DIRECT } from '~~/core/network/profile'
import { stepKey } from '~~/core/objectives/subject'
import { DIMENSIONS, valueIn, type Dimension } from '~~/core/result/slices'
import type { RunDocument } from '~~/core/run/document'
import { seriesOf } from '~~/core/run/series'

export const DIMENSION_WORDS: Record<Dimension, { one: string, all: string }> = {
  step: { one: 'step', all: 'all steps' },
  group: { one: 'group', all: 'all groups' },
  journey: { one: 'journey', all: 'all journeys' },
  location: { one: 'location', all: 'all locations' },
  network: { one: 'network', all: 'all networks' },
  client: { one: 'client', all: 'all clients' },
  machine: { one: 'machine', all: 'all machines' },
}

export interface Choice {
  value: string
  label: string
}

/**
 * Every value of every dimension that series of the run are filed under, in the plan's order, with its name.
 *
 * @param machines names of its generators
 */
export function choicesOf(document: RunDocument, machines: readonly string[]): Record<Dimension, Choice[]> {
  const { plan, journeys, networks = [], clients = [] } = document
  const series = seriesOf(document)
  const journeyName = (id: string) => journeys.find(j => j.id === id)?.name ?? id
  const steps = new Map(
    series.map(({ journeyId, stepName: step }) => [stepKey(journeyId, step), { journeyId, step }]),
  )
  const stepName = useStepNames(
    () => ({ steps: [...steps.values()] }),
    () => document,
  )
  const names: Record<Dimension, (value: string) => string> = {
    step: (key) => {
      const step = steps.get(key)
      return step ? stepName(step) : key
    },
    group: (letter) => {
      const name = plan.groups.find(g => g.letter === letter)?.name
      return name ? `${letter} ${name}` : letter
    },
    journey: journeyName,
    location: code => code,
    machine: name => name,
    client: id => (id === PLAIN ? 'not said' : (clients.find(c => c.id === id)?.name ?? id)),
    network: id => (id === DIRECT ? 'none added' : (networks.find(n => n.id === id)?.name ?? id)),
  }
  return Object.fromEntries(
    DIMENSIONS.map(d => [
      d,
      (d === 'machine' ? machines : [...new Set(series.map(s => valueIn(d, s, document)))])
        .map(value => ({ value, label: names[d](value) })),
    ]),
  // Each dimension was gone through.
  ) as Record<Dimension, Choice[]>
}
