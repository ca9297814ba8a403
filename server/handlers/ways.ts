/** Ways to machines: accounts at providers, private hosts, invitations. */
import { coordinator } from '../../control/meeting-place'
import type { Handlers } from '../handler'
import { done } from './done'

type WayOperation =
  | 'accounts'
  | 'saveAccount'
  | 'removeAccount'
  | 'hosts'
  | 'readHosts'
  | 'tryHosts'
  | 'acceptHostKeys'
  | 'commandHosts'
  | 'commandFile'
  | 'saveSite'
  | 'removeSite'
  | 'saveKey'
  | 'removeKey'
  | 'invitations'
  | 'invite'
  | 'withdrawInvitation'

const hostsOf = () => coordinator().hosts

export const ways: Handlers<WayOperation> = {
  accounts: () => coordinator().ways.list(),
  saveAccount: (_, { account, key }) => done(coordinator().ways.saveAccount(account, key)),
  removeAccount: ({ account }) => done(coordinator().dropAccount(account)),

  hosts: () => ({ sites: hostsOf().views(), keys: hostsOf().keys() }),
  readHosts: (_, { text }) => coordinator().imports.hosts(text),
  tryHosts: (_, { hosts }) => hostsOf().try(hosts),
  acceptHostKeys: (_, { keys }) => {
    for (const { host, fingerprint } of keys) hostsOf().acceptKey(host, fingerprint)
    return { done: true }
  },
  commandHosts: (_, { hosts, command }) => hostsOf().command(hosts, command),
  commandFile: ({ command }) => ({ content: hostsOf().commandText(command), name: `command-${command}.txt` }),
  saveSite: (_, { site }) => hostsOf().saveSite(site, coordinator().hostsInUse()),
  removeSite: ({ site }) => done(hostsOf().dropSite(site, coordinator().hostsInUse())),
  saveKey: (_, { name, key, passphrase = '' }) => hostsOf().saveKey(name, key, passphrase),
  removeKey: ({ key }) => done(hostsOf().dropKey(key)),

  invitations: () => coordinator().invitations.open(),
  invite: (_, wish) => coordinator().invitations.invite(wish),
  withdrawInvitation: ({ invitation }) => done(coordinator().invitations.withdraw(invitation)),
}
