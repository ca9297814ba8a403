/** Journeys as text: the published file. */
import type { Journey } from '../journey/journey'
import { JOURNEY_SCHEMA } from '../journey/schema'
import { compileSchema, readDocument, type TextProblem } from './document-text'
import { printDocument } from './print-document'

export type { TextProblem } from './document-text'
export type ReadJourney = { ok: true, journey: Journey } | { ok: false, problems: TextProblem[] }

const validate = compileSchema(JOURNEY_SCHEMA)

export function printJourney(journey: Journey): string {
  return printDocument(journey)
}

export function readJourneyText(text: string): ReadJourney {
  const read = readDocument<Journey>(text, { what: 'The journey', validate })
  return read.ok ? { ok: true, journey: read.value } : read
}
