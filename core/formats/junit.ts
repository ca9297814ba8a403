/**
 * The objectives of a run as JUnit XML, which release pipelines read: a test case per objective and level. The form has
 * no standard; elements and attributes are those every reader knows (common practice, no source).
 */
import { XMLBuilder } from 'fast-xml-parser'
import { sayShortfall, sayValue, type Answer } from '../objectives/judge'
import { nameOf, sayLimit, type JourneyNames } from '../objectives/sentence'

export interface JudgedForJUnit {
  /** Of the whole: the plan's question. */
  question: string
  planName: string
  answer: Answer
  journeys: JourneyNames
  /** ISO 8601. */
  startedAt: string
  lengthS: number
}

const builder = new XMLBuilder({ ignoreAttributes: false, attributeNamePrefix: '@', format: true, suppressEmptyNode: true })

export function junitOf({ question, planName, answer, journeys, startedAt, lengthS }: JudgedForJUnit): string {
  const cases = answer.judgements.map((j) => {
    const { objective, level, measured, held, short = [] } = j
    const said = measured === undefined ? 'not measured' : sayValue(objective, measured)
    const missed = short.map(sayShortfall).join(' and ')
    // Held, but not under the load that was asked for, is no proof.
    const fails = !held || missed !== ''
    return {
      '@classname': planName,
      '@name': `${nameOf(objective, journeys)} ${sayLimit(objective)}, ${level.users} users, second ${level.fromS} to ${level.toS}`,
      '@time': level.toS - level.fromS,
      ...(measured === undefined ? { skipped: { '@message': said } } : {}),
      ...(measured !== undefined && fails ? { failure: { '@message': missed ? `${said}; ${missed}` : said } } : {}),
    }
  })
  const counts = {
    '@tests': cases.length,
    '@failures': cases.filter(c => 'failure' in c).length,
    '@errors': 0,
    '@skipped': cases.filter(c => 'skipped' in c).length,
    '@time': lengthS,
  }
  return `<?xml version="1.0" encoding="UTF-8"?>\n${builder.build({
    testsuites: {
      '@name': 'Vornak',
      ...counts,
      testsuite: { '@name': question, ...counts, '@timestamp': startedAt, testcase: cases },
    },
  })}`
}
