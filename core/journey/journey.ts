/** What one user does, and against what: journeys and targets as the rest of the house sees them. */

/** Pause after a step, ms. `uniform` draws anew each time. */
export type ThinkTime =
  | { kind: 'none' }
  | { kind: 'fixed', ms: number }
  | { kind: 'uniform', fromMs: number, toMs: number }

/** One request of a journey. */
export interface Step {
  /** Unique within the journey; what results are filed under. */
  name: string
  method: 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE' | 'HEAD'
  /** A path below the target's base address, or a whole URL. */
  url: string
  headers?: Record<string, string>
  body?: string
  think: ThinkTime
  /** Status codes that count as right. */
  expectStatus: number[]
  /** Text the answer's body must hold to count as right. */
  expectText?: string
  /** The whole exchange must be over by then, ms; else it counts as a timeout of at least this. */
  timeoutMs: number
}

export interface Journey {
  id: string
  name: string
  /** Steps repeated from first to last for as long as the user stays. */
  round: Step[]
}

/** What the owner of a target has agreed to. */
export interface Approval {
  /** `host:port` pairs that may be sent to; nothing else is, not even after a redirect. */
  hosts: string[]
  /** Most users at once. */
  mostUsers: number
  /** Moment it ends, ISO 8601. */
  until: string
  contact: string
}

export interface Target {
  id: string
  name: string
  environment: 'test' | 'staging' | 'production'
  /** Paths of steps are put behind it. */
  baseUrl: string
  /** None: nothing may be sent yet. */
  approval?: Approval
}

/** The whole address a step is sent to. @throws TypeError when it is none */
export function addressOf(target: Pick<Target, 'baseUrl'>, step: Pick<Step, 'url'>): URL {
  return /^https?:\/\//i.test(step.url) ? new URL(step.url) : new URL(target.baseUrl.replace(/\/+$/, '') + '/' + step.url.replace(/^\/+/, ''))
}

/** `host:port` of an address, with the scheme's usual port filled in. */
export function hostOf(address: URL): string {
  return `${address.hostname}:${address.port || (address.protocol === 'https:' ? '443' : '80')}`
}

/** Average pause, ms. */
export function meanThinkMs(think: ThinkTime): number {
  if (think.kind === 'none') return 0
  return think.kind === 'fixed' ? think.ms : (think.fromMs + think.toMs) / 2
}

/** Draws one pause, ms. @param random numbers in [0, 1) */
export function drawThinkMs(think: ThinkTime, random: () => number): number {
  if (think.kind === 'none') return 0
  return think.kind === 'fixed' ? think.ms : think.fromMs + random() * (think.toMs - think.fromMs)
}
