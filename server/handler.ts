/** What a handler of an operation is: typed by the table of the API, so that each has one and each answers as said. */
import type { Readable } from 'node:stream'
import type { OperationId } from '../api/addresses'
import type { Answers } from '../api/answers'
import type { By } from './by'
import type { AddressOf, BodyOf, OPERATIONS } from '../api/operations'

/** A file that is answered. `name`: offered for keeping it; left out: it is read, not kept. */
export interface AnsweredFile {
  /** A stream: made while it is read. */
  content: string | Uint8Array | Readable
  name?: string
  /** Where it is not that of the table. */
  type?: string
}

type BodyTo<K extends OperationId> = (typeof OPERATIONS)[K] extends { body: 'bytes' } ? Readable : BodyOf<K>
/** Where a browser is led. */
export interface Led {
  to: string
}

type AnswerOf<K extends OperationId> = K extends keyof Answers
  ? Answers[K]
  : (typeof OPERATIONS)[K] extends { leads: true }
      ? Led
      : AnsweredFile

/**
 * @param at what stands in the address @param body checked @param by who asks @returns the answer
 * @throws an error with code, sentence and remedy
 */
export type Handler<K extends OperationId> = (
  at: AddressOf<K>,
  body: BodyTo<K>,
  by: By,
) => AnswerOf<K> | Promise<AnswerOf<K>>

export type Handlers<K extends OperationId = OperationId> = { [Id in K]: Handler<Id> }
