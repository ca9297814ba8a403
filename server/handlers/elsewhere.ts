/** Results that other programs measured: from files, and told while they measure. */
import { coordinator } from '../../control/meeting-place'
import { ControlError } from '../../control/errors'
import type { RunStream } from '../../control/store/run-streams'
import { unpacked } from '../../control/unpacked'
import { bodyOf } from '../body'
import type { By } from '../by'
import type { Handlers } from '../handler'
import { done } from './done'

type ElsewhereOperation
  = | 'recogniseResults'
    | 'scanResults'
    | 'importResults'
    | 'readingTemplates'
    | 'keepReadingTemplate'
    | 'removeReadingTemplate'
    | 'openStreams'
    | 'streams'
    | 'runArchive'
    | 'openArchive'
    | 'tellLines'
    | 'endTelling'

const files = () => coordinator().elsewhere
const streams = () => coordinator().streams

export const elsewhere: Handlers<ElsewhereOperation> = {
  recogniseResults: (_, { file }) => files().recognise(file),
  scanResults: (_, { files: wanted, mark }) => files().scan(wanted, mark),
  importResults: async (_, wish, by) => {
    const line = await files().import(wish)
    by.about = `run ${line.id}`
    return line
  },
  readingTemplates: () => files().templates(),
  keepReadingTemplate: (_, template, by) => {
    by.about = template.name
    return files().keepTemplate(template)
  },
  removeReadingTemplate: (_, { name }, by) => {
    by.about = name
    return done(files().removeTemplate(name))
  },
  openStreams: (_, wish, by) => {
    const opened = streams().open(wish)
    by.about = `run ${opened.run}`
    return opened
  },
  streams: ({ run }) => {
    coordinator().runs.stored(run)
    return streams().of(run)
  },
  runArchive: async ({ run }) => ({ content: await coordinator().archives.pack(run), name: `run-${run}.vornak.tgz` }),
  openArchive: async (_, { file }, by) => {
    const line = await coordinator().archives.open(file)
    by.about = `run ${line.id}`
    return line
  },
  tellLines: async (of, stream, by) => {
    const lines = unpacked(await bodyOf(stream), by.sent.packed, unread)
    return streams().take(streamOf(by), lines, of)
  },
  endTelling: (_, __, by) => done(streams().end(streamOf(by))),
}

function streamOf({ caller }: By): RunStream {
  if (!caller?.stream)
    throw new ControlError('sign-in', 401, 'Nobody here knows who tells this.', 'Send the token of a stream.')
  return caller.stream
}

const unread = (sentence: string, remedy: string) => new ControlError('sent', 400, sentence, remedy)
