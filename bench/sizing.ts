/**
 * `sizing`: the cheapest fleet of a plan of 12 locations × 6 machine types × 8 groups, against 300 ms for all and 50 ms
 * for one location; with pinned types against a frame. With a peak that is worth machines of its own, the same.
 */
import type { Capacity } from '../core/capacity/capacity'
import type { SizingAround } from '../core/fleet/place'
import { sizePlan } from '../core/fleet/sizing'
import type { Journey } from '../core/journey/journey'
import type { MachineType } from '../core/offers/machine-type'
import type { Plan } from '../core/plan/document'
import { seededRandom } from '../core/random/seeded'
import { benchDocument, step } from './document'
import { median, tell } from './measure'

const LOCATIONS = 12
const TYPES = 6
const GROUPS = 8
const ALL_MS = 300
const ONE_MS = 50
const FRAME_MS = 16

export function benchSizing(quick: boolean): void {
  const random = seededRandom(11)
  const letters = Array.from({ length: GROUPS }, (_, i) => String.fromCharCode(65 + i))
  const codes = Array.from({ length: LOCATIONS }, (_, i) => `L${String.fromCharCode(65 + i)}X`)
  const types = Array.from({ length: TYPES }, (_, i): MachineType => {
    const vcpu = [1, 2, 4, 2, 4, 8][i]!
    return {
      name: `t${i}`,
      vcpu,
      memoryMb: 2048 * vcpu,
      pricePerHour: 0.05 * vcpu * (0.9 + 0.3 * random()),
      interruptiblePerHour: 0.02 * vcpu * (0.9 + 0.3 * random()),
      billingGrainS: [60, 60, 3600][i % 3]!,
    }
  })
  const document = benchDocument('127.0.0.1:1', [step()])
  const journeys = letters.map((letter): Journey => ({ ...document.journeys[0]!, id: `j${letter}` }))
  const capacities = journeys.flatMap(j =>
    types.map((t): Capacity => {
      const users = 150 * t.vcpu * (0.5 + random())
      const of = (n: number) => ({ users: n, lower: n, upper: n, base: 0 })
      return {
        schema: 'vornak-capacity/1',
        id: `${j.id} ${t.name}`,
        origin: 'calibrated',
        journeyId: j.id,
        journeyName: j.name,
        network: 'direct',
        provider: 'n',
        machineType: t.name,
        vcpu: t.vcpu,
        outcome: 'measured',
        users,
        lower: users,
        upper: users,
        binds: 'cpuShare',
        signals: {
          cpuShare: of(users),
          memoryShare: of(users * (1 + 2 * random())),
          scheduleLagP99Ms: of(users * (1 + random())),
          socketShare: of(users * 6),
        },
        responseMs: 100,
        thinkMs: 0,
        requestsPerPass: 1,
        costs: {},
        machines: 1,
        fingerprint: '',
        journeyVersion: 1,
        release: '',
        at: 0,
      }
    }),
  )
  const around: SizingAround = {
    journeys,
    capacities,
    stale: [],
    billedS: 1500,
    offers: { n: codes.map(region => ({ region, types, quota: { most: 60, used: 0 }, bootS: 60 })) },
  }
  const planOf = (choose: Partial<Plan['locations'][number]>, locations: readonly string[], peak: number): Plan => ({
    ...document.plan,
    sizing: { spares: 1, headroom: 0.2 },
    networks: {},
    groups: letters.map((letter, g) => ({
      letter,
      name: letter,
      journeyId: `j${letter}`,
      profile: {
        startDelayMs: g * 10_000,
        segments: [
          { to: peak + g * 97, overMs: 120_000 },
          { to: peak + g * 97, overMs: 600_000 },
          { to: 0, overMs: 60_000 },
        ],
      },
    })),
    locations: locations.map(code => ({
      code,
      provider: 'n',
      region: code,
      machineType: 't1',
      machines: 'auto' as const,
      interruptible: true,
      ...choose,
    })),
    placement: Object.fromEntries(
      letters.map(letter => [letter, Object.fromEntries(locations.map(code => [code, 'rest' as const]))]),
    ),
  })
  // A peak of ten minutes in an hour.
  const towering = (plan: Plan): Plan => ({
    ...plan,
    groups: plan.groups.map(
      ({
        profile: {
          segments: [up],
        },
        ...g
      }) => ({
        ...g,
        profile: {
          startDelayMs: 0,
          segments: [
            { to: Math.round(up!.to / 3), overMs: 120_000 },
            { to: Math.round(up!.to / 3), overMs: 1_400_000 },
            { to: up!.to, overMs: 60_000 },
            { to: up!.to, overMs: 600_000 },
            { to: Math.round(up!.to / 3), overMs: 60_000 },
            { to: Math.round(up!.to / 3), overMs: 1_400_000 },
          ],
        },
      }),
    ),
  })
  const measure = (name: string, plan: (i: number) => Plan, reference: number, surroundings = around) => {
    const times: number[] = []
    for (let i = 0; i < (quick ? 4 : 60); i++) {
      const asked = plan(i)
      const began = performance.now()
      sizePlan(asked, surroundings)
      times.push(performance.now() - began)
    }
    const value = median(times.slice(quick ? 1 : 10))
    tell({ bench: 'sizing', case: name, value, unit: 'ms', reference, ratio: value / reference, goal: '≤ 1' })
  }
  // Another load each time, so that nothing is remembered.
  measure('all', i => planOf({ choose: 'cheapest' }, codes, 900 + i * 13), ALL_MS)
  measure('one location', i => planOf({ choose: 'cheapest' }, codes.slice(0, 1), 90 + i * 3), ONE_MS)
  measure('pinned', i => planOf({}, codes, 900 + i * 13), FRAME_MS)
  const hour = { ...around, billedS: 3800 }
  measure('all, with a peak', i => towering(planOf({ choose: 'cheapest' }, codes, 900 + i * 13)), ALL_MS, hour)
  measure(
    'one location, with a peak',
    i => towering(planOf({ choose: 'cheapest' }, codes.slice(0, 1), 90 + i * 3)),
    ONE_MS,
    hour,
  )
  measure('pinned, with a peak', i => towering(planOf({}, codes, 900 + i * 13)), FRAME_MS, hour)
}
