/** What runs are made from: targets, journeys, feeds, files and plans, checked before they are kept. */
import { faultsOfClient, type Client } from '../../core/client/client'
import { CLIENT_PRESETS } from '../../core/client/presets'
import { printJourney } from '../../core/formats/journey-text'
import type { Feed } from '../../core/journey/feed'
import type { Journey } from '../../core/journey/journey'
import { problemsOfJourney, type JourneyProblem } from '../../core/journey/problems'
import { MOST_NAMED } from '../../core/journey/schema'
import { isAddressRange } from '../../core/journey/approved-address'
import { sourceFaults, type Source } from '../../core/target/source'
import { compilePath } from '../../core/values/json-path'
import { targetValues, type Approval, type Target } from '../../core/journey/target'
import { PRESETS } from '../../core/network/presets'
import { faultsOfProfile, type NetworkProfile } from '../../core/network/profile'
import type { Plan } from '../../core/plan/document'
import { clientsUsed, networksUsed } from '../../core/plan/shares'
import type { Clock } from '../clock'
import { ControlError, notFound, savedMeanwhile } from '../errors'
import type { LibraryStore, StoredJourney, StoredPlan } from '../store/library'
import type { RemovableKind } from '../store/removed'
import type { Sealing } from '../store/sealing'
import { TargetSecrets } from './target-secrets'
import type { FileRoom } from './files'
import { messageOf } from '../../core/values/thrown'

export class Library {
  private readonly secrets: TargetSecrets

  /** @param ownHosts `host:port` pairs of Vornak itself: never to be approved */
  constructor(
    readonly store: LibraryStore,
    readonly files: FileRoom,
    sealing: Sealing,
    private readonly clock: Clock,
    private readonly ownHosts: () => string[],
  ) {
    this.secrets = new TargetSecrets(store, sealing)
  }

  // Targets.

  target(id: string): Target | undefined {
    return this.store.target(id)
  }

  targets(): Target[] {
    return this.store.targets()
  }

  /** @param secrets new values by name; one that is left out stays, a name that is not among `secretNames` goes */
  saveTarget(target: Target, secrets: Record<string, string> = {}): Target {
    checkBase(target.baseUrl)
    for (const address of Object.values(target.addresses ?? {})) checkBase(address)
    if (target.approval) this.checkApproval(target.approval)
    refuseSources(target.sources ?? [])
    const names = new Set([...(target.secretNames ?? []), ...Object.keys(secrets)])
    if (names.size > MOST_NAMED)
      throw new ControlError(
        'too-large',
        413,
        `The target would have ${names.size} secrets; ${MOST_NAMED} are the most.`,
        'Take some away first.',
      )
    const kept = { ...target, secretNames: [...names].sort() }
    // First what can fail: nothing is kept by halves.
    const keepSecrets = this.secrets.prepare(kept, secrets)
    this.store.saveTarget(kept)
    keepSecrets()
    return kept
  }

  /** Under an id of its own, made of its name. */
  newTarget(target: Target, secrets?: Record<string, string>): Target {
    return this.saveTarget({ ...target, id: this.freeId(target.name, id => this.target(id) !== undefined) }, secrets)
  }

  removeTarget(id: string): void {
    const users = this.store.plans().filter(p => p.plan.targetId === id)
    if (users.length > 0)
      throw new ControlError(
        'in-use',
        409,
        `The target is that of ${users.map(u => u.plan.name).join(', ')}.`,
        'Choose another target there first.',
      )
    this.store.remove('target', id, this.clock.now())
  }

  setApproval(targetId: string, approval: Approval): Target {
    const target = this.target(targetId)
    if (!target) throw notFound(`target ${targetId}`)
    return this.saveTarget({ ...target, approval })
  }

  /**
   * Values of the target's secrets, to be handed to generators and nobody else. @throws ControlError when the key does
   * not fit, or they were given for other hosts
   */
  secretsOf(target: Target): Record<string, string> {
    return this.secrets.of(target)
  }

  // Journeys.

  journey(id: string, version?: number): StoredJourney {
    const stored = this.store.journey(id, version)
    if (!stored) throw notFound(version === undefined ? `journey ${id}` : `version ${version} of journey ${id}`)
    return stored
  }

  journeys(): Journey[] {
    return this.store.journeys().map(s => s.journey)
  }

  saveJourney(journey: Journey, onVersion?: number): StoredJourney {
    const version = onVersion ?? this.store.journey(journey.id)?.version ?? 0
    const saved = this.store.saveJourney(journey, version, this.clock.now())
    if (!saved) throw savedMeanwhile('journey', this.journey(journey.id).version)
    return saved
  }

  /** As the published file. */
  /** Under an id of its own, made of its name. */
  newJourney(journey: Journey): StoredJourney {
    const id = this.freeId(journey.name, id => this.store.journey(id) !== undefined)
    return this.saveJourney({ ...journey, id }, 0)
  }

  journeyText(id: string): string {
    return printJourney(this.journey(id).journey)
  }

  removeJourney(id: string): void {
    const users = this.store.plans().filter(p => p.plan.groups.some(g => g.journeyId === id))
    if (users.length > 0)
      throw new ControlError(
        'in-use',
        409,
        `The journey is walked in ${users.map(u => u.plan.name).join(', ')}.`,
        'Give its groups another journey first.',
      )
    this.store.remove('journey', id, this.clock.now())
  }

  /** Brings back what was removed, under its own id. @throws ControlError: it is not there, or its place is taken */
  restore(kind: RemovableKind, id: string): void {
    if (!this.store.restore(kind, id)) throw notFound(`removed ${kind} ${id}`)
  }

  /** An id that is free, made from a name. */
  freeId(name: string, taken: (id: string) => boolean): string {
    const base =
      name
        .toLowerCase()
        .normalize('NFKD')
        .replace(/[^a-z0-9]+/g, '-')
        .replace(/^-+|-+$/g, '')
        .slice(0, 40) || 'unnamed'
    let id = base
    for (let n = 2; taken(id); n++) id = `${base}-${n}`
    return id
  }

  problemsOf(journey: Journey, target?: Target): JourneyProblem[] {
    const values = target && {
      ...Object.fromEntries((target.secretNames ?? []).map(n => [n, ''])),
      ...targetValues(target),
    }
    return problemsOfJourney(journey, {
      feeds: this.feedColumns(),
      target: values,
      files: new Set(this.store.files().map(f => f.id)),
    })
  }

  // Feeds.

  feeds(): Feed[] {
    return this.store.feeds()
  }

  feed(id: string): Feed | undefined {
    return this.store.feeds().find(f => f.id === id)
  }

  saveFeed(feed: Feed): void {
    this.store.saveFeed(feed, this.clock.now())
  }

  removeFeed(id: string): void {
    const users = this.journeys().filter(j => (j.feeds ?? []).some(f => f.feed === id))
    if (users.length > 0)
      throw new ControlError(
        'in-use',
        409,
        `The feed is used by ${users.map(u => u.name).join(', ')}.`,
        'Take it out there first.',
      )
    this.store.remove('feed', id, this.clock.now())
  }

  feedColumns(): Record<string, string[]> {
    return Object.fromEntries(this.feeds().map(f => [f.id, f.columns]))
  }

  /**
   * Bytes of rows `from` to `to` in the feed's rows file. Where each row begins stands at the file's end: one number of
   * 8 bytes per row, and one for the end.
   */
  bytesOfRows(feed: Feed, from: number, to: number): { fromByte: number, toByte: number } {
    const at = (row: number) =>
      Number(this.files.read(feed.rowsFile, feed.rowsBytes + row * 8, feed.rowsBytes + row * 8 + 8).readBigUInt64LE())
    return { fromByte: at(from), toByte: at(to) }
  }

  // Network profiles.

  /** Presets and the operator's own. */
  networks(): NetworkProfile[] {
    return [...PRESETS, ...this.store.networks()]
  }

  /** @throws ControlError for values that cannot be, and for the name of a preset */
  saveNetwork(profile: NetworkProfile): NetworkProfile {
    const fault = faultsOfProfile(profile)[0]
    if (fault) throw new ControlError('profile', 400, fault.sentence, 'Correct the value and save again.')
    refusePreset(profile.id, PRESETS, 'Give your profile a short name of its own.')
    this.store.saveNetwork(profile)
    return profile
  }

  removeNetwork(id: string): void {
    refusePreset(id, PRESETS, 'Only your own profiles can be removed.')
    if (!this.store.networks().some(n => n.id === id)) throw notFound(`network profile “${id}”`)
    refuseUsed('profile', this.plans().filter(p => networksUsed(p.plan).includes(id)))
    this.store.remove('network', id, this.clock.now())
  }

  // Clients.

  /** Presets and the operator's own. */
  clients(): Client[] {
    return [...CLIENT_PRESETS, ...this.store.clients()]
  }

  /** @throws ControlError for headers that cannot be, and for the name of a preset */
  saveClient(client: Client): Client {
    const fault = faultsOfClient(client)[0]
    if (fault) throw new ControlError('client', 400, fault.sentence, 'Correct it and save again.')
    refusePreset(client.id, CLIENT_PRESETS, 'Give your client a short name of its own.')
    this.store.saveClient(client)
    return client
  }

  removeClient(id: string): void {
    refusePreset(id, CLIENT_PRESETS, 'Only your own clients can be removed.')
    if (!this.store.clients().some(c => c.id === id)) throw notFound(`client “${id}”`)
    refuseUsed('client', this.plans().filter(p => clientsUsed(p.plan).includes(id)))
    this.store.remove('client', id, this.clock.now())
  }

  // Plans.

  plan(id: string): StoredPlan | undefined {
    return this.store.plan(id)
  }

  plans(): StoredPlan[] {
    return this.store.plans()
  }

  savePlan(id: string, plan: Plan, onVersion: number): StoredPlan {
    const saved = this.store.savePlan(id, plan, onVersion, this.clock.now())
    if (!saved) throw savedMeanwhile('plan', this.plan(id)?.version ?? 0)
    return saved
  }

  private checkApproval({ hosts, addressRanges = [], readFrom = [], window }: Approval): void {
    const own = [...hosts, ...readFrom].find(h => this.ownHosts().includes(h))
    if (own !== undefined)
      throw new ControlError('own-host', 400, `${own} is Vornak itself.`, 'Approve the hosts of the system under load.')
    const unread = addressRanges.find(r => !isAddressRange(r))
    if (unread !== undefined)
      throw new ControlError(
        'address-range',
        400,
        `“${unread}” is no range of addresses.`,
        'Write one like 10.1.0.0/16 or fd00::/8, or one address.',
      )
    if (!window) return
    try {
      new Intl.DateTimeFormat('en', { timeZone: window.zone })
    }
    catch {
      throw new ControlError('zone', 400, `“${window.zone}” is no time zone.`, 'Write one like Europe/Oslo or UTC.')
    }
  }
}

/** @throws ControlError where it ships with the program */
function refusePreset(id: string, presets: readonly { id: string }[], remedy: string): void {
  if (presets.some(p => p.id === id))
    throw new ControlError('preset', 409, `“${id}” is a preset, which stays as it is.`, remedy)
}

/** @throws ControlError where a plan has it */
function refuseUsed(what: string, by: readonly StoredPlan[]): void {
  if (by.length > 0)
    throw new ControlError(
      'in-use',
      409,
      `The ${what} is used in ${by.map(u => u.plan.name).join(', ')}.`,
      'Take it out there first.',
    )
}

/** @throws ControlError */
export function refuseSources(sources: readonly Source[]): void {
  const [fault] = sourceFaults(sources)
  if (fault) throw new ControlError('source', 400, fault.sentence, fault.remedy)
  for (const path of sources.flatMap(s => [...(s.stamp ? [s.stamp] : []), ...(s.kind === 'json' ? s.series.map(c => c.of) : [])])) {
    try {
      compilePath(path)
    }
    catch (error) {
      throw new ControlError('source', 400, `“${path}” is no JSONPath: ${messageOf(error)}`, 'Write one like $.pool.inUse.')
    }
  }
}

function checkBase(address: string): void {
  try {
    if (/^https?:$/.test(new URL(address).protocol)) return
  }
  catch {
    /* told below */
  }
  throw new ControlError(
    'address',
    400,
    `“${address}” is no address of a target.`,
    'Write one like https://portal.example:8443.',
  )
}
