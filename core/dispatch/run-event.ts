/** What programs are told of a run: as JSON, at each change of its state, its answer, and when an objective breaks. */
import type { Answer } from '../objectives/judge'
import { ENDED, type RunChange, type RunState } from '../run/life'

export const TELLS = ['state', 'answer', 'broken'] as const
/** `state`: each change of it. `answer`: when there is one. `broken`: an objective is broken, or held again. */
export type Tells = (typeof TELLS)[number]

export const TELLS_WORDS: Record<Tells, string> = {
  state: 'each change of state',
  answer: 'the answer',
  broken: 'an objective that is broken, or held again',
}

/** As it is sent. */
export interface ToldEvent {
  /** `try`: somebody has asked for one, to see whether it gets through. */
  kind: Tells | 'try'
  /** ISO 8601. */
  at: string
  /** In words. */
  says: string
  run?: {
    id: number
    name: string
    plan: string
    planId: string
    question: string
    target: string
    build: string
    state: RunState
    /** Where it can be looked at. */
    address: string
  }
  /** Of `state`. */
  change?: { from: RunState, to: RunState }
  /** Of `answer`. */
  answer?: { verdict: Answer['verdict'], sentence: string, soundness: string }
  /** Of `broken`: which objective. */
  objective?: string
}

/** What of a run's changes is told, and by which name each is known. */
export function toldOf(change: RunChange, hasAnswer: boolean): Tells[] {
  if (change.event === 'objectiveBroken' || change.event === 'objectiveMended') return ['broken']
  if (change.from === change.to) return []
  return hasAnswer && ENDED.includes(change.to) ? ['state', 'answer'] : ['state']
}
