/** Journeys as text: the published file. */
import type { Journey } from '../journey/journey'
import { JOURNEY_SCHEMA } from '../journey/schema'
import { readDocument, type TextProblem } from './document-text'
import { printDocument } from './print-document'

export type { TextProblem } from './document-text'
export type ReadJourney = { ok: true, journey: Journey } | { ok: false, problems: TextProblem[] }

export function printJourney(journey: Journey): string {
  return printDocument(journey)
}

export function readJourneyText(text: string): ReadJourney {
  const read = readDocument<Journey>(text, { what: 'The journey', schema: JOURNEY_SCHEMA })
  return read.ok ? { ok: true, journey: read.value } : read
}
