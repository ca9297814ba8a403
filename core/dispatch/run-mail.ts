/** The mail at the end of a run, in words: the answer in its subject, then what was asked and what it rests on. */
import { sayValue, type Answer } from '../objectives/judge'
import { nameOf, sayLimit } from '../objectives/sentence'
import type { RunDocument } from '../run/document'
import type { RunSummary } from '../result/summary'
import { count } from '../values/said-figures'

export interface MailedRun {
  id: number
  /** Its own name, else its plan's. */
  name: string
  document: RunDocument
  /** The answer, or why there is none. */
  sentence: string
  summary?: RunSummary
  /** Where it can be looked at. */
  address: string
}

export interface MailText {
  subject: string
  question: string
  sentence: string
  lines: string[]
  address: string
}

const MOST_SUBJECT = 150

function standing({ held, short = [] }: Answer['judgements'][number]): string {
  if (!held) return 'broken'
  return short.length > 0 ? 'held at less than was asked for' : 'held'
}

export function mailOfRun({ id, name, document, sentence, summary, address }: MailedRun): MailText {
  const subject = `Run ${id}, ${name}: ${sentence}`
  const judged = summary?.answer.judgements ?? []
  return {
    subject: subject.length > MOST_SUBJECT ? `${subject.slice(0, MOST_SUBJECT - 1)}…` : subject,
    question: document.plan.question,
    sentence,
    lines: [
      ...judged.map(j =>
        `${nameOf(j.objective, document.journeys)} ${sayLimit(j.objective)}: ${
          j.measured === undefined ? 'not measured' : sayValue(j.objective, j.measured)
        } at ${count(j.level.users)} users, ${standing(j)}`),
      ...(summary ? [`${count(summary.whole.started)} requests; ${summary.soundness} as evidence.`] : []),
    ],
    address,
  }
}
