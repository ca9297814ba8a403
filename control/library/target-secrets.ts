/**
 * Secrets of targets: sealed at rest, opened for generators and nobody else, and only for the hosts they were given
 * for. Anyone who points a target elsewhere gives them again.
 */
import { hostOf, type Target } from '../../core/journey/target'
import { ControlError } from '../errors'
import type { LibraryStore } from '../store/library'
import type { Sealing } from '../store/sealing'
import { messageOf } from '../../core/values/thrown'

/** Hosts a target's values are meant for: those of its base and further addresses, and of pages that ask for one. */
function hostsOf({ baseUrl, addresses = {}, sources = [] }: Pick<Target, 'baseUrl' | 'addresses' | 'sources'>): string[] {
  const pages = sources.filter(s => s.authorization).map(s => s.address)
  return [...new Set([baseUrl, ...Object.values(addresses), ...pages].map(address => hostOf(new URL(address))))].sort()
}

/** What a secret is sealed about: it opens in its place, for its hosts. */
const about = (targetId: string, name: string, hosts: string | null) =>
  hosts === null ? `${targetId}/${name}` : `${targetId}/${name}@${hosts}`

export class TargetSecrets {
  constructor(
    private readonly store: LibraryStore,
    private readonly sealing: Sealing,
  ) {}

  /**
   * Values by name. @throws ControlError when the key does not fit, or the target leads to other hosts than they were
   * given for
   */
  of(target: Target): Record<string, string> {
    const wanted = new Set(target.secretNames ?? [])
    const kept = this.store.secrets(target.id).filter(s => wanted.has(s.name))
    this.refuseElsewhere(target, kept)
    try {
      return Object.fromEntries(
        kept.map(s => [s.name, this.sealing.unseal(s.sealed, about(target.id, s.name, s.hosts))]),
      )
    }
    catch (error) {
      throw new ControlError('sealed', 500, messageOf(error), 'See Targets.')
    }
  }

  /**
   * Seals new values, and holds the target's others to their hosts; nothing is kept yet.
   *
   * @returns keeps them, and drops those whose name is gone
   * @throws ControlError when others were given for other hosts
   */
  prepare(target: Target, values: Readonly<Record<string, string>>): () => void {
    const names = new Set(target.secretNames ?? [])
    const others = this.store.secrets(target.id).filter(s => names.has(s.name) && !(s.name in values))
    this.refuseElsewhere(target, others)
    const hosts = hostsOf(target).join(' ')
    const sealed = Object.entries(values).map(
      ([name, value]) => [name, this.sealing.seal(value, about(target.id, name, hosts))] as const,
    )
    return () => {
      for (const [name, value] of sealed) this.store.saveSecret(target.id, name, value, hosts)
      for (const { name } of this.store.secrets(target.id)) if (!names.has(name)) this.store.dropSecret(target.id, name)
    }
  }

  /** @throws ControlError when a host of the target is none of those a secret was given for */
  private refuseElsewhere(target: Target, secrets: readonly { name: string, hosts: string | null }[]): void {
    for (const { name, hosts } of secrets) {
      if (hosts === null) continue
      const other = hostsOf(target).find(h => !hosts.split(' ').includes(h))
      if (other !== undefined)
        throw new ControlError(
          'secret-elsewhere',
          400,
          `The secret ${name} was given for ${hosts.replaceAll(' ', ', ')}; ${target.name} leads to ${other} as well.`,
          `Give ${name} again, or leave it out.`,
        )
    }
  }
}
