/**
 * Holds what providers list against what is known here: machines move on, are confirmed gone, found again, called back;
 * strays show.
 */
import type { Machine } from '../store/machines'
import type { FleetTools } from './fleet-tools'
import type { Provider, ProviderMachine } from './providers/contract'

/** Something a provider has that nobody here knows, or that should be gone. */
export interface Stray {
  provider: string
  machine: ProviderMachine
  since: number
  /** `outlived`: known here, and given back. It is released without being asked. */
  why: 'unknown' | 'outlived'
}

/** What has just been given back may be listed a little longer: disks go after their machine, ms. */
const OUTLIVED_MS = 10_000
/** An order that may have been carried out unheard would be listed by now, ms. */
const UNHEARD_MS = 15_000
/** A machine missing from this many lists in a row, over this long, is gone: one list alone may have forgotten it. */
const MISSING_LISTS = 3
const MISSING_MS = 10_000

/** Machines that were out and are not listed, by their id: since when, and in how many lists. */
export type Missing = Map<string, { since: number, lists: number }>

/**
 * A machine is gone when its provider says so by name, or when several lists over a time agree that it is not there.
 *
 * @param askedAt when the provider was asked for its list
 * @param missing kept from list to list
 * @returns strays among it
 */
// eslint-disable-next-line max-lines-per-function -- one calculation or case after the other, with what they share
export function reconcile(
  tools: FleetTools,
  provider: Provider,
  listed: readonly ProviderMachine[],
  askedAt: number,
  before: readonly Stray[],
  missing: Missing,
): Stray[] {
  const { machines, clock, installation, formerInstallations = [], change } = tools
  const byRef = new Map(listed.map(m => [m.ref, m]))
  const byName = new Map(
    listed.filter(m => (m.kind ?? 'machine') === 'machine' && m.state !== 'gone').map(m => [m.name, m]),
  )
  const own = new Set<string>()
  for (const machine of machines.out()) {
    if (machine.provider !== provider.id) continue
    const found = machine.ref === undefined ? foundAgain(machine) : byRef.get(machine.ref)
    if (found) own.add(found.ref)
    if (found) missing.delete(machine.id)
    if (machine.ref === undefined) {
      if (!found && machine.state !== 'asked' && (machine.triedAt ?? 0) < askedAt - UNHEARD_MS)
        gone(machine, 'was never allocated')
      continue
    }
    // An answer given before the machine was made says nothing about it; moments are kept in whole ms.
    const isOlder = (machine.allocatedAt ?? 0) >= askedAt - 1
    if (found && found.state !== 'gone') follow(machine, found)
    else if (isOlder) continue
    else if (found) gone(machine, `${provider.name} confirms it is gone`, `${provider.name} says the machine has ended`)
    else if (isMissing(machine)) gone(machine, `${provider.name} does not list it any more`)
  }

  const strays: Stray[] = []
  for (const found of byRef.values()) {
    if (
      own.has(found.ref) ||
      ![installation, ...formerInstallations].some(label => found.name.startsWith(`${label}-`)) ||
      found.state === 'gone' ||
      found.state === 'stopping'
    )
      continue
    // A disk of a machine that is listed itself goes with it.
    if ((found.kind ?? 'machine') !== 'machine' && byName.has(found.name)) continue
    // What carries a former label is known there, not here.
    const isOwn = found.name.startsWith(`${installation}-`)
    const known = isOwn ? machines.machine(found.name.slice(installation.length + 1)) : undefined
    // What hangs on a machine that is still there is its own; what was made a moment ago is not noted yet.
    if (known && (known.goneAt === undefined || known.goneAt > askedAt - OUTLIVED_MS)) continue
    strays.push({
      provider: provider.id,
      machine: found,
      since: before.find(s => s.machine.ref === found.ref)?.since ?? clock.now(),
      why: known ? 'outlived' : 'unknown',
    })
  }
  return strays

  /** Counts one more list without it. @returns whether they are enough */
  function isMissing({ id }: Machine): boolean {
    const { since, lists } = missing.get(id) ?? { since: askedAt, lists: 0 }
    missing.set(id, { since, lists: lists + 1 })
    return lists + 1 >= MISSING_LISTS && askedAt - since >= MISSING_MS
  }

  /** An order whose answer was lost: the machine is found by its name, and never ordered twice. */
  function foundAgain(machine: Machine): ProviderMachine | undefined {
    const found = byName.get(`${installation}-${machine.id}`)
    if (!found) return undefined
    machines.together(() => {
      machines.setRef(machine.id, found.ref, machine.triedAt ?? clock.now())
      change(machine.id, 'allocated', `${provider.name} had made it, though its answer was lost: ${found.ref}`)
    })
    return found
  }

  /** @param unasked what is said when it has ended by itself */
  function gone(machine: Machine, sentence: string, unasked = sentence): void {
    missing.delete(machine.id)
    machines.together(() => {
      machines.setGone(machine.id, clock.now())
      endedAs(machine, sentence, unasked)
    })
  }

  function endedAs(machine: Machine, sentence: string, unasked: string): void {
    if (change(machine.id, 'goneConfirmed', sentence)) return
    if (machine.reclaimAt !== undefined && change(machine.id, 'takenBack', `${provider.name} has taken it back`)) return
    change(
      machine.id,
      ['allocated', 'booting', 'installing'].includes(machine.state) ? 'broke' : 'stoppedAnswering',
      unasked,
    )
  }

  function follow(machine: Machine, found: ProviderMachine): void {
    const say = (what: string) => found.sentence ?? `${provider.name}: ${what}`
    if (found.reclaimAt !== undefined && machine.reclaimAt === undefined) {
      machines.setReclaim(machine.id, found.reclaimAt)
      machines.remark(
        machine.id,
        machine.state,
        'reclaimNotice',
        `${provider.name} will take it back in ${Math.max(0, Math.round((found.reclaimAt - clock.now()) / 1000))} s`,
        clock.now(),
      )
      tools.onReclaim({ ...machine, reclaimAt: found.reclaimAt })
    }
    switch (found.state) {
      case 'booting':
        change(machine.id, 'booting', say('booting'))
        break
      case 'running':
        change(machine.id, 'running', say('running'))
        break
      case 'failed':
        change(machine.id, 'broke', say('it came up broken'))
        break
      case 'stopped':
        if (!change(machine.id, 'broke', say('it has halted')))
          change(machine.id, 'stoppedAnswering', say('it has halted'))
        break
      default:
    }
  }
}
