import { clientsView } from '../../control/library/clients-view'
import { commandsBy } from '../../control/library/commands-by'
import { coordinator } from '../../control/meeting-place'
import type { Handlers } from '../handler'
import { approvalBy } from './approval-by'
import { done } from './done'

type LibraryOperation =
  | 'upload'
  | 'feeds'
  | 'newFeed'
  | 'removeFeed'
  | 'targets'
  | 'newTarget'
  | 'saveTarget'
  | 'setApproval'
  | 'removeTarget'
  | 'networks'
  | 'saveNetwork'
  | 'removeNetwork'
  | 'clients'
  | 'saveClient'
  | 'removeClient'
  | 'restore'

const libraryOf = () => coordinator().library

export const library: Handlers<LibraryOperation> = {
  upload: ({ name = 'upload' }, bytes) => libraryOf().files.take(bytes, name),
  feeds: () => libraryOf().feeds(),
  newFeed: (_, { file, name, ...reading }) => coordinator().imports.feed(file, name, reading),
  removeFeed: ({ feed }) => done(libraryOf().removeFeed(feed)),

  targets: () => libraryOf().targets(),
  newTarget: (_, { target, secrets }, { caller }) => {
    approvalBy(caller, undefined, target.approval)
    commandsBy(caller, [], target.sources)
    return libraryOf().newTarget(target, secrets)
  },
  saveTarget: ({ target: id }, { target, secrets }, { caller }) => {
    const before = libraryOf().target(id)
    approvalBy(caller, before?.approval, target.approval)
    commandsBy(caller, before?.sources, target.sources)
    return libraryOf().saveTarget({ ...target, id }, secrets)
  },
  setApproval: ({ target }, { approval }) => libraryOf().setApproval(target, approval),
  removeTarget: ({ target }) => {
    libraryOf().removeTarget(target)
    coordinator().people.sourceTokens.endAll(target)
    return done(undefined)
  },

  networks: () => coordinator().networks(),
  saveNetwork: ({ network }, { profile }) => libraryOf().saveNetwork({ ...profile, id: network }),
  removeNetwork: ({ network }) => done(libraryOf().removeNetwork(network)),
  clients: () => clientsView(libraryOf()),
  saveClient: ({ client: id }, { client }) => libraryOf().saveClient({ ...client, id }),
  removeClient: ({ client }) => done(libraryOf().removeClient(client)),
  restore: ({ kind, removed }) => done(libraryOf().restore(kind, removed)),
}
