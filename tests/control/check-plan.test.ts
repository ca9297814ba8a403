/** What a plan’s check says of what becomes of its run when it is over. */
import { checkPlan, type Allowance } from '../../control/library/check-plan'
import type { Plan } from '../../core/plan/document'
import { hill, journey, plan, target } from '../build/plans'

const RAILS = {
  budgetPerRun: 10,
  budgetPerDay: 10,
  mostMachines: 10,
  mostUsers: 1000,
  longestRunMin: 600,
  currency: 'EUR',
}

/** @returns the codes of what is good to know */
function toKnow(written: Plan, allowance: Partial<Allowance>): string[] {
  const { problems } = checkPlan(
    written,
    {
      target: target(),
      journeys: [journey()],
      feeds: {},
      networks: [],
      clients: [],
      capacities: { capacities: [], stale: [] },
    },
    {},
    Date.parse('2026-11-30T12:00:00.000Z'),
    [],
    { rails: RAILS, spentToday: 0, ...allowance },
  )
  return problems.filter(p => p.weight === 'toKnow').map(p => p.code)
}

const lasting = (holdS: number, over: Partial<Plan> = {}) =>
  plan({ groups: [{ letter: 'A', name: 'Lookers', journeyId: 'look', profile: hill(2, 1, holdS, 1) }], ...over })

describe('a plan', () => {
  it('that takes longer than frames are kept for is told that they are folded', () => {
    expect(toKnow(lasting(2 * 3600), { foldHours: 2 })).toContain('folded-after')
    expect(toKnow(lasting(2 * 3600 - 2), { foldHours: 2 })).not.toContain('folded-after')
    expect(toKnow(lasting(5 * 3600), {})).not.toContain('folded-after')
  })

  it('whose report is mailed is told where there is no mail server', () => {
    const mailed = lasting(60, { mailTo: ['ana@ostervik.example'] })
    expect(toKnow(mailed, { hasMailServer: false })).toContain('no-mail-server')
    expect(toKnow(mailed, { hasMailServer: true })).not.toContain('no-mail-server')
    expect(toKnow(lasting(60), { hasMailServer: false })).not.toContain('no-mail-server')
  })
})
