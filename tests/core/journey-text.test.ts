/**
 * Journeys as text: out and in again; what is wrong is told at its line; the published schemas are those of the code.
 */
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { printJourney, readJourneyText } from '../../core/formats/journey-text'
import { JOURNEY_SCHEMA, TARGET_SCHEMA } from '../../core/journey/schema'
import { CLIENT_SCHEMA } from '../../core/client/schema'
import { NETWORK_SCHEMA } from '../../core/network/schema'
import { PLAN_SCHEMA } from '../../core/plan/schema'
import { BROWSER_JOURNEY, DEMO_JOURNEYS } from '../../demo/scenario'
import { enrolmentJourney } from '../build/enrolment'

describe('a journey as text', () => {
  it.each([...DEMO_JOURNEYS, BROWSER_JOURNEY, enrolmentJourney()].map(j => [j.name, j] as const))(
    'goes out and comes back the same: %s',
    (_, journey) => {
      expect(readJourneyText(printJourney(journey))).toEqual({ ok: true, journey })
      expect(readJourneyText(JSON.stringify(journey))).toEqual({ ok: true, journey })
    },
  )

  it('has its faults told at the line', () => {
    const good = printJourney(DEMO_JOURNEYS[0]!)
    const lineOf = (text: string, part: string) => text.split('\n').findIndex(l => l.includes(part)) + 1
    const misspelt = good.replace('timeoutMs: 10000', 'timeout: 10000')
    const read = readJourneyText(misspelt)
    expect(read.ok === false && read.problems.map(p => [p.line, p.sentence])).toEqual(
      expect.arrayContaining([
        [lineOf(misspelt, 'timeout: 10000'), expect.stringContaining('“timeout” that is not known')],
      ]),
    )
    const wrong = good.replace('method: GET', 'method: FETCH')
    const second = readJourneyText(wrong)
    expect(second.ok === false && second.problems[0]).toEqual({
      line: lineOf(wrong, 'FETCH'),
      sentence: expect.stringContaining('must be one of GET, POST'),
    })
    expect(readJourneyText('a: [1')).toMatchObject({ ok: false, problems: [{ line: 1 }] })
    expect(readJourneyText('{"__proto__": {"x": 1}}')).toMatchObject({ ok: false })
  })

  it('follows the schema that is published', () => {
    for (const [name, schema] of Object.entries({
      journey: JOURNEY_SCHEMA,
      target: TARGET_SCHEMA,
      plan: PLAN_SCHEMA,
      network: NETWORK_SCHEMA,
      client: CLIENT_SCHEMA,
    }))
      expect([name, JSON.parse(readFileSync(join(__dirname, `../../schemas/${name}.schema.json`), 'utf8'))]).toEqual([
        name,
        JSON.parse(JSON.stringify(schema)),
      ])
  })
})
