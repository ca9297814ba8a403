/**
 * A whole house for end-to-end tests: portal, cloud and Vornak as real processes on ports of their own, driven over
 * HTTP.
 */
import { spawn, type ChildProcess } from 'node:child_process'
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { RunView, WindowView } from '../../api/views'
import { libraryStore } from '../../control/store/library'
import { openStore } from '../../control/store/open'
import type { Journey } from '../../core/journey/journey'
import type { Target } from '../../core/journey/target'
import type { Plan } from '../../core/plan/document'
import { demoTarget } from '../../demo/scenario'
import { freePort } from '../../scripts/ports.cjs'

const DIST = join(__dirname, '..', '..', 'dist')

export const CLOUD_KEY = 'made-up-for-tests'

export interface HouseOptions {
  plans: Record<string, Plan>
  journeys: Journey[]
  cloud?: object
  portal?: object
  /** Targets besides the portal. */
  targets?: Target[]
  /** Further settings of Vornak. */
  env?: Record<string, string>
  /** Folder its data lies in; left out: where temporary files do. */
  within?: string
}

export class House {
  readonly folder: string
  readonly children = new Map<string, ChildProcess>()
  /** What the processes printed on standard error. */
  said = ''
  ports = { vornak: 0, door: 0, portal: 0, cloud: 0 }
  private env: Record<string, string> = {}

  private constructor(within = tmpdir()) {
    this.folder = mkdtempSync(join(within, 'vornak-house-'))
  }

  static async build(options: HouseOptions): Promise<House> {
    const { plans, journeys, cloud = {}, portal = {}, targets = [], env = {}, within } = options
    const house = new House(within)
    house.env = env
    house.ports = {
      vornak: await freePort(),
      door: await freePort(),
      portal: await freePort(),
      cloud: await freePort(),
    }
    const store = openStore(join(house.folder, 'vornak.db'))
    const library = libraryStore(store)
    library.saveTarget(demoTarget(`http://127.0.0.1:${house.ports.portal}`, '2999-01-01T00:00:00.000Z'))
    for (const t of targets) library.saveTarget(t)
    for (const j of journeys) library.saveJourney(j, 0, 1)
    for (const [id, plan] of Object.entries(plans)) library.savePlan(id, plan, 0, Date.now())
    store.close()
    const settings = (name: string, content: object) => {
      const file = join(house.folder, `${name}.json`)
      writeFileSync(file, JSON.stringify(content))
      return file
    }
    house.start('portal', ['enrolment-portal.mjs', settings('portal', portal)], { PORT: String(house.ports.portal) })
    house.start(
      'cloud',
      [
        'nimbral-cloud.mjs',
        join(DIST, 'generator.mjs'),
        settings('cloud', {
          regions: ['reyk', 'tavira', 'osaki'].map(name => ({ name, quota: 5, bootS: 0.6 })),
          keys: [CLOUD_KEY],
          ...cloud,
        }),
      ],
      { PORT: String(house.ports.cloud) },
    )
    await house.startVornak()
    return house
  }

  /** @param env settings that differ this once */
  async startVornak(env: Record<string, string> = {}): Promise<void> {
    this.start('vornak', ['main.mjs'], {
      VORNAK_PORT: String(this.ports.vornak),
      VORNAK_GENERATORS_PORT: String(this.ports.door),
      VORNAK_DATA: this.folder,
      VORNAK_CLOUD: `http://127.0.0.1:${this.ports.cloud}`,
      VORNAK_CLOUD_KEY: CLOUD_KEY,
      VORNAK_SELF_TEST_S: '0',
      VORNAK_CHECK_ANSWERS: '1',
      ...this.env,
      ...env,
    })
    const vornak = this.children.get('vornak')
    await until(
      async () => {
        if (vornak?.exitCode != null) throw new Error(`Vornak ended with ${vornak.exitCode}:\n${this.said.slice(-2000)}`)
        const answers = await Promise.all(
          [
            `${this.url}/api/me`,
            `http://127.0.0.1:${this.ports.portal}/counts`,
            `http://127.0.0.1:${this.ports.cloud}/faults`,
          ].map(u =>
            fetch(u).then(
              r => r.ok,
              () => false,
            ),
          ),
        )
        return answers.every(Boolean)
      },
      20_000,
      'the house to answer',
    )
  }

  /** Settings of Vornak from its next start on. */
  set(env: Record<string, string>): void {
    this.env = { ...this.env, ...env }
  }

  get url(): string {
    return `http://127.0.0.1:${this.ports.vornak}`
  }

  start(name: string, [program, ...args]: string[], env: Record<string, string>): ChildProcess {
    const child = spawn(process.execPath, [join(DIST, program!), ...args], {
      env: { ...process.env, ...env },
      stdio: ['ignore', 'ignore', 'pipe'],
    })
    child.stderr!.on('data', (text: Buffer) => {
      this.said += text.toString()
    })
    this.children.set(name, child)
    return child
  }

  /** Ends a process by its id, at once, as a power cut would. */
  async kill(name: string): Promise<void> {
    const child = this.children.get(name)!
    const gone = new Promise(r => child.once('exit', r))
    child.kill('SIGKILL')
    await gone
  }

  /** @throws Error with what the server said, when it could not answer */
  async get<T>(path: string): Promise<T> {
    const answer = await fetch(`${this.url}/api/${path}`)
    if (!answer.ok) throw new Error(`${path}: ${await answer.text()}\n${this.said.slice(-2000)}`)
    return (await answer.json()) as T
  }

  async post(
    path: string,
    body: object = {},
    method = 'POST',
  ): Promise<{ status: number, body: Record<string, unknown> }> {
    const answer = await fetch(`${this.url}/api/${path}`, {
      method,
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(body),
    })
    return { status: answer.status, body: (await answer.json()) as Record<string, unknown> }
  }

  /** Uploads a file. @returns its content id */
  async upload(content: Uint8Array, name: string): Promise<string> {
    const answer = await fetch(`${this.url}/api/files?name=${name}`, {
      method: 'POST',
      headers: { 'content-type': 'application/octet-stream' },
      body: Buffer.from(content),
    })
    return ((await answer.json()) as { id: string }).id
  }

  run(id: number): Promise<RunView> {
    return this.get<RunView>(`runs/${id}`)
  }

  /** Starts a plan. @returns the run's number */
  async startPlan(planId: string): Promise<number> {
    const { status, body } = await this.post(`plans/${planId}/start`)
    if (status !== 200) throw new Error(JSON.stringify(body))
    return body.id as number
  }

  /** Waits until a run is as wanted. */
  async runUntil(id: number, is: (run: RunView) => boolean, what: string, ms = 90_000): Promise<RunView> {
    let run: RunView | undefined
    await until(
      async () => {
        // A server that is away is waited for; one that answers with a fault is not.
        run = await this.run(id).catch((error: Error) => {
          if (error.message.includes('"fault"')) throw error
          return run
        })
        return run !== undefined && is(run)
      },
      ms,
      `run ${id} ${what}`,
    ).catch((error: Error) => {
      const machines = run?.machines.map(m => `${m.name} ${m.state}: ${m.changes.at(-1)?.reason}`).join('; ')
      throw new Error(
        `${error.message}; it is ${run?.line.state}: ${run?.line.sentence} [${machines}]\n${this.said.slice(-2000)}`,
      )
    })
    return run!
  }

  /** Run and machines over: everything is given back. */
  ended(id: number): Promise<RunView> {
    return this.runUntil(
      id,
      r => r.line.endedAt !== undefined && r.machines.every(m => m.goneAt !== undefined),
      'to end with every machine given back',
    )
  }

  /** Requests that were merged, by step, whole run: redirects followed are requests too. */
  async mergedByStep(id: number): Promise<Record<string, number>> {
    const window = await this.get<WindowView>(`runs/${id}/window?from=0&to=3600`)
    const merged: Record<string, number> = {}
    // The portal counts by the step’s name, whichever journey has it.
    for (const { step, kind, figures } of window.steps)
      if (kind === 'request' && figures.started > 0)
        merged[step] = (merged[step] ?? 0) + figures.started + figures.redirects
    return merged
  }

  /** What the portal itself counted, by step. */
  /** @param of other requests of the run than its load's */
  async receivedByStep(id: number, of: '' | ' rehearsal' = ''): Promise<Record<string, number>> {
    const counts = (await (await fetch(`http://127.0.0.1:${this.ports.portal}/counts`)).json()) as Record<
      string,
      Record<string, { received: number }>
    >
    return Object.fromEntries(Object.entries(counts[`${id}${of}`] ?? {}).map(([step, c]) => [step, c.received]))
  }

  /** Process id of the generator on a machine. */
  generatorPid(name: string): number {
    const cloud = this.children.get('cloud')!.pid!
    for (const pid of readdirSync('/proc').filter(p => /^\d+$/.test(p))) {
      try {
        if (Number(/^PPid:\s+(\d+)/m.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))![1]) !== cloud) continue
        if (
          readFileSync(`/proc/${pid}/environ`, 'utf8')
            .split('\0')
            .some(e => e.startsWith('VORNAK_MACHINE=') && e.endsWith(`-${name.toLowerCase()}`))
        )
          return Number(pid)
      }
      catch {
        /* it has ended meanwhile */
      }
    }
    throw new Error(`no process of ${name}`)
  }

  async close(): Promise<void> {
    for (const child of [...this.children.values()].reverse()) {
      if (child.exitCode !== null || child.signalCode !== null) continue
      const gone = new Promise(r => child.once('exit', r))
      child.kill('SIGTERM')
      await gone
    }
    rmSync(this.folder, { recursive: true, force: true })
    rmSync(`${this.folder}.key`, { force: true })
  }
}

/** @param ms that it takes on a computer that keeps time; one whose neighbours take its CPU is given twice as long */
export async function until(is: () => boolean | Promise<boolean>, ms: number, what: string): Promise<void> {
  const end = performance.now() + 2 * ms
  while (!(await is())) {
    if (performance.now() > end) throw new Error(`waited ${(2 * ms) / 1000} s for ${what}`)
    await new Promise(r => setTimeout(r, 100))
  }
}
