/** A run with something to tell apart in every dimension: two journeys, three groups, networks, clients, machines. */
import { CLIENT_PRESETS } from '../../core/client/presets'
import { seriesByMachine } from '../../core/run/machine-series'
import { hill, journey, plan, runDocument, step } from './plans'

const LINE = { id: 'line', name: 'Line', latencyMs: 20, jitterMs: 0, loss: 0 }
export const slicedRun = runDocument({
  plan: plan({
    groups: ['A', 'B', 'C'].map((letter, i) => ({
      letter,
      name: `Group ${letter}`,
      journeyId: i === 2 ? 'other' : 'look',
      profile: hill(40, 1, 5, 1),
      ...(i === 1 ? { clients: { 'phone-app': 5000 } } : {}),
    })),
    locations: ['AAA', 'BBB'].map(code => ({ code, provider: 'p', region: code, machineType: 't', machines: 1 })),
    placement: {
      A: { AAA: 5000, BBB: 'rest' },
      B: { AAA: 5000, BBB: 'rest' },
      C: { AAA: 'rest' },
    },
    networks: { A: { AAA: { line: 4000 }, BBB: { line: 10_000 } } },
  }),
  journeys: [
    journey({ spans: [{ name: 'Both', from: 'Look', to: 'Ask', withThink: false }] }),
    // Its step is called as one of the first journey's.
    journey({ id: 'other', name: 'The other', round: [step(), step({ name: 'Leave', url: '/out' })] }),
  ],
  networks: [LINE],
  clients: CLIENT_PRESETS.filter(c => c.id === 'phone-app'),
})
/** Told apart by machine, as frames tell it: numbers of machines that stand elsewhere are left free. */
export const slicedSeries = seriesByMachine(slicedRun, [
  { name: 'AAA-1', location: 0 },
  { name: 'AAA-2', location: 0 },
  { name: 'BBB-1', location: 1 },
])
