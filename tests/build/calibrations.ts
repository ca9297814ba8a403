/** What tests of calibration on real processes share: a journey that costs CPU, a wish, a house of small machines. */
import type { CapacitiesView } from '../../api/views'
import type { Journey } from '../../core/journey/journey'
import type { Plan } from '../../core/plan/document'
import { DEMO_JOURNEYS, PORTAL_ID } from '../../demo/scenario'
import { handbook } from './handbook'
import { House, until } from './house'
import { hill, journey, plan, step } from './plans'

export const broken: Journey = journey({
  id: 'broken',
  name: 'A wrong turn',
  round: [step({ name: 'Nowhere', url: '/no-such-page' })],
})
export const readers = (users: number, machines: number | 'auto', upS = 10, holdS = 14): Plan =>
  plan({
    targetId: PORTAL_ID,
    groups: [{ letter: 'A', name: 'Readers', journeyId: 'handbook', profile: hill(users, upS, holdS, 2) }],
    objectives: [],
    locations: [{ code: 'REY', provider: 'nimbral', region: 'reyk', machineType: 'brisk-1', machines }],
    placement: { A: { REY: 10_000 } },
  })
/** Every second counts: a level waits for no quiet neighbours, and all takes the same time on any computer. */
export const WISH = {
  journeys: ['handbook'],
  networks: ['direct'],
  provider: 'nimbral',
  region: 'reyk',
  types: ['brisk-1'],
  machines: 1,
  targetId: PORTAL_ID,
  sink: true,
  mostStolenShare: 1,
}
/** @param levels seconds of settling in, of a level, and of the last one; left out: as usual */
export function calibratingHouse(levels?: string): Promise<House> {
  return House.build({
    plans: { readers: readers(60, 'auto') },
    journeys: [...DEMO_JOURNEYS, handbook, broken],
    cloud: {
      coresPerVcpu: 0.3,
      regions: [
        { name: 'reyk', quota: 6, bootS: 0.5 },
        { name: 'tavira', quota: 0, bootS: 0.5 },
      ],
      noStock: [],
    },
    ...(levels === undefined ? {} : { env: { VORNAK_LEVEL_S: levels } }),
  })
}

/** One test that failed leaves nothing under way for the next. */
export async function nothingUnderWay(house: House): Promise<void> {
  const { batches } = await house.get<CapacitiesView>('calibrations')
  for (const b of batches) if (!b.endedAt) await house.post(`calibrations/${b.id}/stop`)
  await until(
    async () => (await house.get<CapacitiesView>('calibrations')).batches.every(b => b.endedAt !== undefined),
    60_000,
    'every calibration to end',
  )
}
