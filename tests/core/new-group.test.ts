/** A group that is added to a plan. */
import { addGroup, newGroup } from '../../core/plan/new-group'
import { sayRow } from '../../app/format/shares'
import { plan as samplePlan } from '../build/plans'

const locations = ['REY', 'TAV'].map(code => ({
  code,
  provider: 'nimbral',
  region: code,
  machineType: 'n2',
  machines: 'auto' as const,
}))
const groupsOf = (letters: string) =>
  [...letters].map(letter => ({ ...samplePlan().groups[0]!, letter, name: letter }))

test('a new group takes the first letter that is free, and its users come from the only location there is', () => {
  const one = { ...samplePlan(), groups: groupsOf('ABD'), locations: locations.slice(0, 1) }
  expect(newGroup(one, 'look')).toEqual({
    group: { letter: 'C', name: 'Group C', journeyId: 'look', profile: { startDelayMs: 0, segments: [] } },
    row: { REY: 'rest' },
  })
  // With several, who comes from where is not guessed.
  expect(newGroup({ ...one, locations }, 'look')!.row).toEqual({})
  expect(newGroup({ ...one, groups: groupsOf('ABCDEFGHIJKLMNOPQRSTUVWXYZ') }, 'look')).toBeUndefined()
})

test('adding changes nothing but what was chosen for it', () => {
  const before = { ...samplePlan(), groups: groupsOf('A'), locations, placement: { A: { REY: 10_000 } } }
  const plan = structuredClone(before)
  const added = newGroup(plan, 'look')!
  addGroup(plan, added)
  expect(plan).toEqual({ ...before, groups: [...before.groups, added.group] })
  const other = newGroup(plan, 'look')!
  addGroup(plan, { ...other, row: { REY: 2500, TAV: 'rest' }, networks: { REY: { 'city-fibre': 7000 } } })
  expect(plan.placement).toEqual({ A: { REY: 10_000 }, C: { REY: 2500, TAV: 'rest' } })
  expect(plan.networks!.C).toEqual({ REY: { 'city-fibre': 7000 } })
})

test('a row is said in the order of the locations, without those that have nobody', () => {
  expect(sayRow({ TAV: 'rest', REY: 2550, OSA: 0 }, ['REY', 'OSA', 'TAV'])).toBe('REY 25.5 %, TAV the rest')
  expect(sayRow({}, ['REY'])).toBe('')
})
