/**
 * Private servers over SSH: one generator a host, brought there, launched apart from the connection, and talked to over
 * the exec channel's standard input and output. A connection that breaks is made anew; the generator goes on meanwhile,
 * and not a sample is lost.
 */
import {
  hostOk,
  isReserved,
  settleHost,
  type Host,
  type HostTry,
  type SettledHost,
  type Site,
} from '../../core/fleet/site'
import type { MachineType, RegionOffer } from '../../core/offers/machine-type'
import { framed, StreamReader } from '../../protocol/stream'
import type { Clock } from '../clock'
import { HostProblem } from './ssh/problem'
import { bring, launch, lives, openRelay, readLog, readUnsent, remove, residents } from './ssh/resident'
import type { Bundle } from '../link/door'
import { openSession, type KeyRoom, type SshSession } from './ssh/session'
import type { Wire } from '../link/generator-hub'
import {
  ProviderSilent,
  type MachineRequest,
  type Provider,
  type ProviderMachine,
} from '../machines/providers/contract'
import { messageOf } from '../../core/values/thrown'
import { present } from '../../core/values/present'

export const PRIVATE_ID = 'private'
/** What a host is called as a machine type: each is what it is. */
const HOST_TYPE = 'host'

/** Pause before a broken connection is made anew, ms: first and longest. */
const AGAIN_FIRST_MS = 500
const AGAIN_MOST_MS = 10_000
/** Hosts are searched for what was left on them at the start, and then this often, ms. */
const SEARCH_MS = 10 * 60_000

/** The generator's side of a conversation, as the hub takes it. */
interface Accepted {
  message(data: string | Uint8Array): void
  closed(): void
}

export interface PrivateServersOptions {
  clock: Clock
  keys: KeyRoom
  installation: string
  /** Those of installations this one was restored from. */
  formerInstallations?: readonly string[]
  sites: () => readonly Site[]
  lastTry: (host: string) => HostTry | undefined
  /** Refs in use, as the store knows them. */
  taken: () => ReadonlySet<string>
  bundle: () => Bundle
  accept: (wire: Wire, from?: string) => Accepted
  /** A log collected from a host. */
  onLog: (machineName: string, log: string) => void
}

/** One generator of ours on one host. */
interface PostedGenerator {
  ref: string
  name: string
  host: SettledHost
  state: ProviderMachine['state']
  sentence: string
  session: SshSession | undefined
  busy: boolean
  notBefore: number
  againMs: number
  ending: boolean
}

export class PrivateServers implements Provider {
  readonly id = PRIVATE_ID
  readonly name = 'Private servers'
  readonly way = 'private' as const
  // What is brought there ends by itself, and is ended by its watchdog; the host is its owner's.
  readonly ownEnd = 'natively' as const
  readonly mostBooting = 20
  private readonly posts = new Map<string, PostedGenerator>()
  /** Hosts promised to orders whose answer is under way. */
  private readonly promised = new Map<string, string>()
  private leftOnHosts: ProviderMachine[] = []
  private searchedAt = Number.NEGATIVE_INFINITY
  private stopped = false

  constructor(private readonly options: PrivateServersOptions) {}

  offers(): Promise<RegionOffer[]> {
    const { sites } = this.options
    return Promise.resolve(
      sites().map((site): RegionOffer => {
        const fit = this.fitHosts(site)
        const cores = fit.map(h => h.cores ?? this.options.lastTry(`${site.id}/${h.name}`)?.facts?.cores ?? 1)
        const memory = fit.map(h => this.options.lastTry(`${site.id}/${h.name}`)?.facts?.memoryMb ?? 1024)
        // Machines of one order count alike, so the least host speaks for all.
        const type: MachineType = {
          name: HOST_TYPE,
          vcpu: Math.min(...cores, cores.length ? Number.POSITIVE_INFINITY : 1),
          memoryMb: Math.min(...memory, memory.length ? Number.POSITIVE_INFINITY : 1024),
          pricePerHour: 0,
          billingGrainS: 1,
        }
        const inUse = this.inUse()
        return {
          region: site.id,
          types: [type],
          quota: { most: fit.length, used: fit.filter(h => inUse.has(`${site.id}/${h.name}`)).length },
          bootS: 6,
        }
      }),
    )
  }

  create({ region, name, idempotencyKey }: MachineRequest): ReturnType<Provider['create']> {
    const site = this.options.sites().find(s => s.id === region)
    const refuse = (code: string, sentence: string, passing: boolean) =>
      Promise.resolve({ refusal: { code, sentence, passing } })
    if (!site) return refuse('no-such-site', `There is no private site “${region}”.`, false)
    const promised = this.promised.get(idempotencyKey)
    if (promised) return Promise.resolve({ ref: promised })
    const fit = this.fitHosts(site)
    if (fit.length === 0)
      return refuse(
        'no-host',
        `${site.name} has no host that is fit and not reserved: try them on the Fleet screen.`,
        true,
      )
    const inUse = this.inUse()
    const host = fit.find(h => !inUse.has(`${site.id}/${h.name}`))
    if (!host)
      return refuse('quota', `All ${fit.length} hosts of ${site.name} are in use${this.troubleAt(site)}.`, true)
    const ref = `${site.id}/${host.name}/${name}`
    this.promised.set(idempotencyKey, ref)
    return Promise.resolve({ ref })
  }

  attend({ ref, name, environment, endsAfterS, ending }: Parameters<NonNullable<Provider['attend']>>[0]): void {
    const post = this.postOf(ref, name)
    if (!post || post.busy || post.session || this.stopped || this.options.clock.now() < post.notBefore) return
    if (ending || post.ending || post.state === 'failed' || post.state === 'stopped') return
    void this.work(post, () => this.connect(post, present(environment.VORNAK_TOKEN, 'the token of a generator that is started'), endsAfterS))
  }

  list(): Promise<ProviderMachine[]> {
    void this.search()
    return Promise.resolve([
      ...[...this.posts.values()].map(({ ref, name, host, state, sentence }): ProviderMachine => ({
        ref,
        name,
        region: host.site,
        type: HOST_TYPE,
        state,
        ...(sentence ? { sentence } : {}),
      })),
      ...this.leftOnHosts.filter(m => !this.posts.has(m.ref)),
    ])
  }

  async release(ref: string): Promise<void> {
    const post = this.postOf(ref, ref.split('/')[2]!)
    if (!post)
      throw new ProviderSilent(
        `${ref.split('/').slice(0, 2).join('/')} is not among the hosts any more: add it again, so that what is on it can be ended`,
      )
    if (post.state === 'gone') return
    post.ending = true
    if (post.busy) return
    await this.work(post, () => this.end(post))
    // Ending it changes the state, which the compiler takes for that of before.
    if ((post.state as string) !== 'gone') throw new ProviderSilent(post.sentence)
  }

  async salvage(ref: string): Promise<Uint8Array | undefined> {
    const post = this.postOf(ref, ref.split('/')[2]!)
    return post && this.withSession(post, session => readUnsent(session, post.host, post.name, this.options.bundle()))
  }

  stop(): void {
    this.stopped = true
    for (const post of this.posts.values()) post.session?.close()
  }

  private fitHosts(site: Site): Host[] {
    return site.hosts.filter(
      h => hostOk(this.options.lastTry(`${site.id}/${h.name}`)) && !isReserved(h, this.options.clock.now()),
    )
  }

  /** `site/host` of every host that has, or is promised to, a machine. */
  private inUse(): Set<string> {
    return new Set(
      [...this.options.taken(), ...this.promised.values(), ...this.posts.keys()]
        .filter(ref => this.posts.get(ref)?.state !== 'gone')
        .map(ref => ref.split('/').slice(0, 2).join('/')),
    )
  }

  /** What keeps generators from coming up on a site's hosts: said wherever one is asked for and none is left. */
  private troubleAt(site: Site): string {
    const trouble = [...this.posts.values()].find(
      p => p.host.site === site.id && p.sentence && p.notBefore > 0 && !['running', 'gone'].includes(p.state),
    )
    return trouble ? `, and on ${trouble.host.name} no generator comes up: ${trouble.sentence.replace(/\.$/, '')}` : ''
  }

  private postOf(ref: string, name: string): PostedGenerator | undefined {
    const known = this.posts.get(ref)
    if (known) return known
    const [siteId, hostName] = ref.split('/')
    const site = this.options.sites().find(s => s.id === siteId)
    const host = site?.hosts.find(h => h.name === hostName)
    if (!site || !host) return undefined
    const post: PostedGenerator = {
      ref,
      name,
      host: settleHost(site, host),
      state: 'pending',
      sentence: '',
      session: undefined,
      busy: false,
      notBefore: 0,
      againMs: AGAIN_FIRST_MS,
      ending: false,
    }
    this.posts.set(ref, post)
    for (const [key, promised] of this.promised) if (promised === ref) this.promised.delete(key)
    return post
  }

  /** One piece of work at a time per post; what goes wrong is kept with it. */
  private async work(post: PostedGenerator, act: () => Promise<void>): Promise<void> {
    post.busy = true
    try {
      await act()
    }
    catch (error) {
      if (!(error instanceof HostProblem)) throw error
      post.sentence = `${error.message}. ${error.remedy}`
      post.notBefore = this.options.clock.now() + post.againMs
      post.againMs = Math.min(AGAIN_MOST_MS, post.againMs * 2)
      if (error.lasting && !post.ending) post.state = 'failed'
    }
    finally {
      post.busy = false
    }
  }

  /** Signs in, brings the generator, launches it unless it ran before, and lets it speak. */
  private async connect(post: PostedGenerator, token: string, leaseS: number): Promise<void> {
    const { keys, clock, bundle, accept } = this.options
    const session = await openSession(post.host, keys)
    try {
      if (post.state === 'pending') post.state = 'booting'
      const before = await lives(session, post.host, post.name, bundle())
      if (before === 'ended') {
        post.state = 'stopped'
        post.sentence = `its generator on ${post.host.name} has ended`
        return session.close()
      }
      if (before === 'never') {
        post.sentence = `signed in to ${post.host.name}`
        const { found, came } = await bring(session, post.host, post.name, bundle(), clock)
        post.state = 'running'
        post.sentence = `${post.host.name}: Node ${found.node}, generator ${came}`
        await launch(session, post.host, bundle(), found.home, { name: post.name, token, leaseS })
      }
      post.state = 'running'
      const channel = await openRelay(session, post.host, post.name, bundle())
      const link = accept({
        send: data => void channel.write(framed(data)),
        close: () => channel.close(),
        drop: () => session.drop(),
      })
      const reader = new StreamReader(message => link.message(message))
      channel.on('data', (chunk: Buffer) => {
        try {
          reader.take(chunk)
        }
        catch (error) {
          post.sentence = messageOf(error)
          channel.close()
        }
      })
      channel.stderr.on('data', (chunk: Buffer) => {
        post.sentence = chunk.toString('utf8').trim().slice(0, 300)
      })
      channel.on('close', () => {
        link.closed()
        // What ends its life here is being carried out over the same connection.
        if (!post.ending) session.close()
      })
      session.onClose(() => {
        if (post.session !== session) return
        post.session = undefined
        post.notBefore = clock.now() + post.againMs
      })
      post.session = session
      post.againMs = AGAIN_FIRST_MS
    }
    catch (error) {
      session.close()
      throw error
    }
  }

  private async end(post: PostedGenerator): Promise<void> {
    const { bundle, onLog } = this.options
    post.state = 'stopping'
    await this.withSession(
      post,
      async (session) => {
        const log = await readLog(session, post.host, post.name, bundle())
        if (log) onLog(post.name, log)
        if (!(await remove(session, post.host, post.name, bundle())))
          throw new HostProblem(
            'disk',
            `something of ${post.name} is still on ${post.host.name}`,
            'Vornak tries again.',
            false,
          )
      },
      true,
    )
    post.state = 'gone'
    post.sentence = ''
    post.session?.close()
    this.leftOnHosts = this.leftOnHosts.filter(m => m.ref !== post.ref)
  }

  /** Through the connection there is, or one made for this. @throws ProviderSilent; HostProblem when raw */
  private async withSession<T>(
    post: PostedGenerator,
    act: (session: SshSession) => Promise<T>,
    raw = false,
  ): Promise<T> {
    const open = post.session
    try {
      const session = open ?? (await openSession(post.host, this.options.keys))
      try {
        return await act(session)
      }
      finally {
        if (!open) session.close()
      }
    }
    catch (error) {
      if (raw || !(error instanceof HostProblem)) throw error
      throw new ProviderSilent(error.message)
    }
  }

  /** What is left on hosts that nobody holds here: after a crash, or from a store that is gone. */
  private async search(): Promise<void> {
    const { clock, sites, lastTry, installation, formerInstallations = [], keys } = this.options
    if (clock.now() - this.searchedAt < SEARCH_MS || this.stopped) return
    this.searchedAt = clock.now()
    const found: ProviderMachine[] = []
    await Promise.all(
      sites().flatMap(site =>
        site.hosts
          .filter(h => hostOk(lastTry(`${site.id}/${h.name}`)))
          .map(async (host) => {
            const settled = settleHost(site, host)
            try {
              const session = await openSession(settled, keys)
              try {
                for (const name of await residents(session, settled, [installation, ...formerInstallations]))
                  found.push({
                    ref: `${site.id}/${host.name}/${name}`,
                    name,
                    region: site.id,
                    type: HOST_TYPE,
                    state: 'running',
                  })
              }
              finally {
                session.close()
              }
            }
            catch (error) {
              if (!(error instanceof HostProblem)) throw error
              // A host that is down is told where it is used.
            }
          }),
      ),
    )
    this.leftOnHosts = found
  }

  searchAgain(): void {
    this.searchedAt = Number.NEGATIVE_INFINITY
  }
}
