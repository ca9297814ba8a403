/**
 * The ways to machines there are now: accounts at clouds, private servers, machines that come by themselves. Changes
 * while Vornak runs.
 */
import type { Clock } from '../clock'
import { ControlError, notFound } from '../errors'
import type { ProviderAccount, AccountStore } from '../store/accounts'
import { CannotUnseal, type Sealing } from '../store/sealing'
import { cloudApi } from './providers/cloud-api'
import { ProviderSilent, type Provider } from './providers/contract'

/** Names no account may have. */
const TAKEN = ['private', 'self']

export class Ways extends Map<string, Provider> {
  constructor(
    fixed: readonly Provider[],
    private readonly accounts: AccountStore,
    private readonly sealing: Sealing,
    private readonly clock: Clock,
  ) {
    super(fixed.map(p => [p.id, p]))
    for (const { account, sealed } of accounts.all()) if (!this.has(account.id)) this.open(account, sealed)
  }

  /**
   * Adds or changes an account, after asking its provider whether it knows the key. @param key left out: the one there
   * is
   */
  async saveAccount(account: ProviderAccount, key?: string): Promise<void> {
    if (TAKEN.includes(account.id))
      throw new ControlError(
        'account-name',
        400,
        `“${account.id}” is Vornak’s own name for another way to machines.`,
        'Choose another name.',
      )
    const before = this.list().find(a => a.id === account.id)
    if (before && before.address !== account.address && key === undefined)
      throw new ControlError(
        'account-key',
        400,
        'The key that is sealed here belongs to another address.',
        'Enter the key again: it is not sent anywhere it was not meant for.',
      )
    const secret = key ?? this.keyOf(account.id)
    if (secret === undefined)
      throw new ControlError('account-key', 400, 'An account needs its key.', 'Enter the key its provider gave.')
    const provider = cloudApi({ ...account, key: secret }, this.clock)
    try {
      await provider.offers()
    }
    catch (error) {
      if (error instanceof ProviderSilent)
        throw new ControlError(
          'account',
          400,
          `${error.message.replace(/\.$/, '')}.`,
          'Correct address and key; nothing was saved.',
        )
      throw error
    }
    this.accounts.save(account, this.sealing.seal(secret, `account/${account.id}`))
    this.set(account.id, provider)
  }

  /** @param inUse machines of it that are out */
  dropAccount(id: string, inUse: number): void {
    if (!this.accounts.all().some(a => a.account.id === id)) throw notFound(`account ${id}`)
    if (inUse > 0)
      throw new ControlError(
        'account-in-use',
        409,
        `${inUse} machines of ${id} are out: without the account nobody could give them back.`,
        'Release them first.',
      )
    this.accounts.drop(id)
    this.delete(id)
  }

  list(): ProviderAccount[] {
    return this.accounts.all().map(a => a.account)
  }

  stop(): void {
    for (const provider of this.values()) provider.stop?.()
  }

  private keyOf(id: string): string | undefined {
    const found = this.accounts.all().find(a => a.account.id === id)
    return found && this.sealing.unseal(found.sealed, `account/${id}`)
  }

  private open(account: ProviderAccount, sealed: Buffer): void {
    try {
      this.set(
        account.id,
        cloudApi({ ...account, key: this.sealing.unseal(sealed, `account/${account.id}`) }, this.clock),
      )
    }
    catch (error) {
      if (!(error instanceof CannotUnseal)) throw error
      // Without its key it does not answer, and says why.
      const silent = () =>
        Promise.reject(new ProviderSilent(`the key of ${account.name} cannot be read: ${error.message}`))
      this.set(account.id, {
        id: account.id,
        name: account.name,
        way: 'cloud',
        ownEnd: account.ownEnd,
        mostBooting: 0,
        offers: silent,
        create: silent,
        list: silent,
        release: silent,
      })
    }
  }
}
