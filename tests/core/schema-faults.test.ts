/** Faults of a schema, held against what Ajv finds by itself, and in a time that goes with how much is wrong. */
import Ajv, { type ErrorObject, type Options } from 'ajv/dist/2020.js'
import { JOURNEY_SCHEMA } from '../../core/journey/schema'
import { PLAN_SCHEMA } from '../../core/plan/schema'
import { schemaChecks } from '../../core/values/schema-faults'
import { CAMPUS_PLAN, DEMO_JOURNEYS, DEMO_PLAN, STAIRS_PLAN } from '../../demo/scenario'
import { Mutator } from '../build/mutated'

const OPTIONS: Options = { allowUnionTypes: true, strictTypes: false, strictRequired: false, validateSchema: false }
const told = (faults: readonly ErrorObject[]) => faults.map(f => `${f.instancePath} ${f.schemaPath} ${JSON.stringify(f.params)}`)
const documents = [
  { name: 'journeys', schema: JOURNEY_SCHEMA, valid: DEMO_JOURNEYS },
  { name: 'plans', schema: PLAN_SCHEMA, valid: [DEMO_PLAN, STAIRS_PLAN, CAMPUS_PLAN] },
]

describe.each(documents)('faults of $name', ({ schema, valid }) => {
  const all = new Ajv({ ...OPTIONS, allErrors: true }).compile(schema)
  const changed = (seed: number) => {
    const mutator = new Mutator(seed)
    return mutator.json(mutator.one(valid as unknown[]))
  }
  const whole = schemaChecks(OPTIONS)(schema)
  const cut = schemaChecks(OPTIONS, undefined, 3)(schema)

  it('are those Ajv finds, in its order', () => {
    let wrong = 0
    for (let seed = 1; seed <= 300; seed++) {
      const value = changed(seed)
      if (!all(value)) wrong++
      expect(told(whole(value))).toEqual(told(all.errors ?? []))
    }
    expect(wrong).toBeGreaterThan(100)
  })

  it('are some of them, and none that is not, where lists are looked through for a few entries only', () => {
    for (let seed = 1; seed <= 300; seed++) {
      const value = changed(seed)
      const isRight = all(value)
      const found = told(cut(value))
      expect([seed, found.length === 0]).toEqual([seed, isRight])
      expect([seed, found.filter(f => !told(all.errors ?? []).includes(f))]).toEqual([seed, []])
    }
  })
})

describe('of a long list', () => {
  const NUMBERS = { type: 'object', properties: { few: { type: 'array', minItems: 4, maxItems: 6, items: { type: 'number' } }, name: { type: 'string' } } }
  const check = schemaChecks(OPTIONS, undefined, 3)(NUMBERS)

  it('the first fault is told, however far behind it is', () => {
    expect(check({ few: [1, 2, 3, 4, 'x'] })).toMatchObject([{ instancePath: '/few/4', keyword: 'type' }])
    expect(check({ few: [1, 2, 3, 4, 5, 6, 7] })).toMatchObject([{ instancePath: '/few', keyword: 'maxItems' }])
  })

  it('it is not said to lack what was not looked at', () => {
    expect(check({ few: [1, 2, 3, 4], name: 5 }).map(f => f.instancePath)).toEqual(['/name'])
    expect(check({ few: [1, 2, 3], name: 5 }).map(f => f.keyword)).toEqual(['minItems', 'type'])
  })

  it('ten times as many wrong steps take no more than ten times as long, give or take', () => {
    const checkJourney = schemaChecks(OPTIONS)(JOURNEY_SCHEMA)
    const timeOf = (steps: number) => {
      const journey = { ...DEMO_JOURNEYS[0], round: Array.from({ length: steps }, () => ({ name: 'a', method: 'GET' })) }
      const began = performance.now()
      expect(checkJourney(journey).length).toBeGreaterThan(100)
      return performance.now() - began
    }
    timeOf(100)
    // As many squared would be a hundred times.
    expect(timeOf(38_000) / timeOf(3800)).toBeLessThan(30)
  })

  it('an object of many keys is refused for some of them, and not said to lack what comes later', () => {
    const NAMED = { type: 'object', additionalProperties: false, required: ['name'], properties: { name: { type: 'string' } } }
    const keys = Object.fromEntries(Array.from({ length: 100_000 }, (_, i) => [`key${i}`, i]))
    const faults = schemaChecks(OPTIONS)(NAMED)({ ...keys, name: 'last' })
    expect(faults.length).toBeLessThan(2000)
    expect([...new Set(faults.map(f => f.keyword))]).toEqual(['additionalProperties'])
  })

  it('what is nested without end is refused, and not gone into', () => {
    let deep: unknown = 'x'
    for (let i = 0; i < 100_000; i++) deep = i % 2 ? [deep] : { deep }
    expect(check({ few: deep }).map(f => f.instancePath)).toContain('/few')
  })
})
