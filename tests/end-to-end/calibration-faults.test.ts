/**
 * What cannot be calibrated says why before a machine is asked for; what is broken off leaves no figure, and is begun
 * again.
 */
import { readdirSync, readFileSync } from 'node:fs'
import type { CalibrationBatchView, CapacitiesView } from '../../api/views'
import { calibratingHouse, nothingUnderWay, WISH } from '../build/calibrations'
import { until, type House } from '../build/house'

let house: House
beforeAll(async () => {
  house = await calibratingHouse()
}, 60_000)
afterAll(() => house?.close(), 30_000)
afterEach(() => nothingUnderWay(house), 90_000)

const refused = async (over: object) => (await house.post('calibrations', { ...WISH, ...over })).body

/** @param budgetPerRun € */
const allow = (budgetPerRun: number) => {
  const most = { mostMachines: 9, mostUsers: 20_000, longestRunMin: 60 }
  return house.post('rails', { rails: { ...most, budgetPerRun, budgetPerDay: 5, currency: 'EUR' } }, 'PUT')
}

describe('what cannot be calibrated', () => {
  it('says why before a machine is asked for', async () => {
    expect(await refused({ journeys: [] })).toMatchObject({ code: 'nothing-chosen' })
    expect(await refused({ journeys: ['broken'] })).toMatchObject({
      code: 'try-failed',
      sentence: expect.stringContaining('A wrong turn fails its try: Nowhere') as string,
    })
    expect(await refused({ region: 'tavira' })).toMatchObject({
      code: 'quota',
      sentence: 'The quota of tavira is 0: no machine can be taken there.',
    })
    expect(await refused({ types: ['huge'] })).toMatchObject({ code: 'unknown-type' })
    expect(await refused({ region: 'atlantis' })).toMatchObject({ code: 'unknown-region' })
    await allow(0.001)
    expect(await refused({})).toMatchObject({ code: 'budget' })
    await allow(5)
    expect((await house.get<{ machinesOut: number }>('meter')).machinesOut).toBe(0)
  }, 30_000)

  it('a capacity of 0, and rubbish to import, are refused', async () => {
    expect(
      (
        await house.post('capacities/by-hand', {
          journeyId: 'handbook',
          network: 'direct',
          provider: 'nimbral',
          machineType: 'brisk-1',
          vcpu: 1,
          users: 0,
        })
      ).body,
    ).toMatchObject({ code: 'capacity', sentence: 'A capacity of 0 carries nobody.' })
    expect((await house.post('capacities', { capacities: [{ schema: 'something else' }] })).status).toBe(400)
  })
})

describe('a machine lost in the middle', () => {
  it('leaves no figure: the item is begun once more, and can be stopped', async () => {
    const { body } = await house.post('calibrations', WISH)
    const id = body.id as number
    const now = () => house.get<CalibrationBatchView>(`calibrations/${id}`)
    await until(async () => ((await now()).seen?.levels.length ?? 0) >= 1, 60_000, 'a first level')
    process.kill(house.generatorPid('REY-1'), 'SIGKILL')
    await until(async () => (await now()).items[0]!.runIds.length === 2, 60_000, 'the item to be begun again')
    expect((await house.get<CapacitiesView>('calibrations')).capacities).toEqual([])
    await house.post(`calibrations/${id}/stop`)
    await until(async () => (await now()).endedAt !== undefined, 60_000, 'the batch to end')
    expect((await now()).items[0]).toMatchObject({ state: 'failed' })
  }, 180_000)
})

describe('what else breaks off', () => {
  const underLoad = (id: number) =>
    until(
      async () => {
        const { run } = await house.get<CalibrationBatchView>(`calibrations/${id}`)
        return run?.state === 'loading' && Date.now() - run.startAt! > 4000
      },
      60_000,
      'the calibration to load for 4 s',
    )
  const begunAgain = (id: number) =>
    until(
      async () => (await house.get<CalibrationBatchView>(`calibrations/${id}`)).items[0]!.runIds.length === 2,
      60_000,
      'the item to be begun again',
    )
  async function stopped(id: number): Promise<void> {
    await house.post(`calibrations/${id}/stop`)
    await until(
      async () =>
        (await house.get<CalibrationBatchView>(`calibrations/${id}`)).endedAt !== undefined &&
        (await house.get<{ machinesOut: number }>('meter')).machinesOut === 0,
      60_000,
      'the batch to end and its machine to be released',
    )
    expect((await house.get<CapacitiesView>('calibrations')).capacities).toEqual([])
  }

  it('a server killed under load: the generator is sent home when it comes back, the item begun again', async () => {
    const { body } = await house.post('calibrations', WISH)
    const id = body.id as number
    await underLoad(id)
    await house.kill('vornak')
    await house.startVornak()
    await begunAgain(id)
    await stopped(id)
  }, 200_000)

  it('a sink that dies is no wrong answer of the journey: the item is begun again with a new one', async () => {
    const { body } = await house.post('calibrations', WISH)
    const id = body.id as number
    await underLoad(id)
    for (const pid of pidsOf('answering-sink.mjs')) process.kill(pid, 'SIGKILL')
    await begunAgain(id)
    await stopped(id)
  }, 200_000)
})

/** Programs of this file that run now: proc(5), /proc/[pid]/cmdline. */
function pidsOf(file: string): number[] {
  return readdirSync('/proc')
    .filter(name => /^\d+$/.test(name))
    .map(Number)
    .filter((pid) => {
      try {
        return readFileSync(`/proc/${pid}/cmdline`, 'utf8').split('\0')[1]?.endsWith(file)
      }
      catch {
        return false
      }
    })
}
