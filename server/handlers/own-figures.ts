/** A target's own figures: sources are tried, and programs send to them. */
import type { Readable } from 'node:stream'
import { commandsBy } from '../../control/library/commands-by'
import type { SentFigures } from '../../control/target/sent-figures'
import { ControlError, notFound } from '../../control/errors'
import { coordinator } from '../../control/meeting-place'
import { bodyOf } from '../body'
import type { By } from '../by'
import type { Handlers } from '../handler'
import { done } from './done'

type OwnFiguresOperation =
  | 'trySource'
  | 'sourceTokens'
  | 'newSourceToken'
  | 'endSourceToken'
  | 'sendLines'
  | 'sendMetrics'

const tokens = () => coordinator().people.sourceTokens
const PROTOBUF = 'application/x-protobuf'

export const ownFigures: Handlers<OwnFiguresOperation> = {
  trySource: ({ target }, { source }, { caller }) => {
    commandsBy(caller, coordinator().library.target(target)?.sources, [source])
    return coordinator().trySource(target, source)
  },
  sourceTokens: ({ target }) =>
    tokens()
      .of(target)
      .map(({ source, createdAt, usedAt }) => ({ source, createdAt, ...(usedAt === undefined ? {} : { usedAt }) })),
  newSourceToken: ({ target }, { source }, by) => {
    by.about = `${target} ${source}`
    const isKept = coordinator().library.target(target)?.sources?.some(s => s.name === source && s.kind === 'sent')
    if (!isKept) throw notFound(`source ${source} of ${target} that figures are sent to: save the target first`)
    return { token: tokens().make(target, source) }
  },
  endSourceToken: ({ target }, { source }, by) => {
    by.about = `${target} ${source}`
    return done(tokens().end(target, source))
  },
  sendLines: (_, stream, by) => take(stream, by, 'lines'),
  sendMetrics: async (_, stream, by) => {
    const isBinary = by.sent.type.toLowerCase().startsWith(PROTOBUF)
    await take(stream, by, isBinary ? 'protobuf' : 'json')
    // Everything was taken: an answer without anything in it says so, in either form.
    return isBinary ? { content: new Uint8Array(), type: PROTOBUF } : { content: '{}' }
  },
}

async function take(stream: Readable, { caller, sent }: By, form: SentFigures['form']) {
  const source = caller?.source
  if (!source) throw new ControlError('sign-in', 401, 'Nobody here knows who sends this.', 'Send the token of a source.')
  return coordinator().takeSent(source, { bytes: await bodyOf(stream), packed: sent.packed, form })
}
