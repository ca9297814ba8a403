/** Links by which somebody without an account sees one thing: made, taken back, and what they open. */
import { coordinator } from '../../control/meeting-place'
import { ControlError } from '../../control/errors'
import type { SharedLink } from '../../control/store/shared-links'
import type { By } from '../by'
import type { Handlers } from '../handler'
import { done } from './done'

type SharingOperation
  = | 'sharedLinks'
    | 'share'
    | 'endLink'
    | 'shared'
    | 'sharedWall'
    | 'sharedHtml'
    | 'sharedPdf'
    | 'sharedHar'

const things = () => coordinator().shared

export const sharing: Handlers<SharingOperation> = {
  sharedLinks: () => coordinator().links.all(),
  share: (_, { opens, days }, by) => {
    by.about = `${opens.kind} of ${opens.runs.join(', ')}`
    for (const run of opens.runs) coordinator().runs.stored(run)
    return coordinator().links.make(opens, days, by.caller?.name ?? '')
  },
  endLink: ({ link }) => done(coordinator().links.end(link)),
  shared: (_, __, by) => {
    const link = linkOf(by)
    const view = things().view(link)
    coordinator().links.opened(link)
    return view
  },
  sharedWall: (_, __, by) => things().wall(linkOf(by)),
  sharedHtml: async (_, __, by) => ({ content: await things().print(linkOf(by), 'html'), name: `${nameOf(by)}.html` }),
  sharedPdf: async (_, __, by) => ({ content: await things().print(linkOf(by), 'pdf'), name: `${nameOf(by)}.pdf` }),
  sharedHar: async (_, __, by) => ({ content: await things().exchanges(linkOf(by)), name: `${nameOf(by)}.har` }),
}

function linkOf({ caller }: By): SharedLink {
  if (!caller?.link) throw new ControlError('sign-in', 401, 'Nobody here knows who asks.', 'Send what the link carries.')
  return caller.link
}

const nameOf = (by: By): string => linkOf(by).opens.runs.map(id => `run-${id}`).join('-')
