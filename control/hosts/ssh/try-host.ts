/**
 * Tries a host, step by step: reach, host key, sign in, runtime, disk, clock, ports, idle CPU. The first step that
 * fails ends it. What a run will do there is done here with the same commands and a smaller program: a file is brought,
 * started, spoken to while another command runs, and removed.
 */
import { randomUUID } from 'node:crypto'
import { TRY_STEPS, type HostTry, type SettledHost, type TryStep } from '../../../core/fleet/site'
import type { Clock } from '../../clock'
import { checkDisk, checkRuntime, findings } from './host-check'
import { busy, clockFar, fewPorts, HostProblem } from './problem'
import { deliver, speak } from './resident'
import { bundleOf } from '../../link/door'
import { openSession, type KeyRoom, type SshSession } from './session'
import { shellPath, shellWord } from './shell'

/** Fewer local ports would be used up by short connections. */
const LEAST_PORTS = 1000
/** Least idle share of the CPU. Common practice, no source. */
const LEAST_IDLE = 0.5
/** A clock further off than this fails its step, ms. */
const FAR_OFF_MS = 2000
/** A program that is spoken to answers within this, ms. */
const ANSWER_MS = 10_000
/** Stands for the generator: says what it is told. */
const ECHO = bundleOf(new TextEncoder().encode('process.stdin.pipe(process.stdout)\n'))

/** Tries that are under way in one working directory: the last to leave takes away what any of them made. */
interface Shared {
  tries: number
  made: Set<string>
  removing?: Promise<void>
}
const underWay = new Map<string, Shared>()

export async function tryHost(host: SettledHost, room: KeyRoom, clock: Clock): Promise<HostTry> {
  const steps: HostTry['steps'] = []
  const ok = (step: TryStep, said: string) => steps.push({ step, ok: true, said })
  let facts: HostTry['facts']
  const result = (): HostTry => ({ at: clock.now(), steps, ...(facts ? { facts } : {}) })
  const began = clock.now()
  const known = room.pinned(host.address, host.port)
  let session: SshSession | undefined
  try {
    session = await openSession(host, room)
    ok('reach', `${Math.round(clock.now() - began)} ms to be let in`)
    ok(
      'hostKey',
      known
        ? `is the one seen before: ${known}`
        : `seen for the first time, pinned: ${room.pinned(host.address, host.port)}`,
    )
    ok('signIn', `as ${host.user}${host.jump ? ` through ${host.jump.address}` : ''}`)
    await inFolder(session, host, async (session, made) => {
      const found = await findings(session, host, clock)
      for (const path of found.made) made.add(path)
      facts = { node: found.node, cores: found.cores, memoryMb: found.memoryMb }
      checkRuntime(host, found)
      ok('runtime', `Node ${found.node}`)
      checkDisk(host, found)
      const way = await rehearse(session, host, found.home)
      ok('disk', `${(found.diskFreeMb / 1024).toFixed(1)} GB free in ${host.folder}; files come by ${way}, and run`)
      const { offsetMs, roundTripMs } = found.clock
      if (Math.abs(offsetMs) > FAR_OFF_MS + roundTripMs) throw clockFar(offsetMs)
      ok('clock', `within ${Math.ceil(Math.abs(offsetMs) + roundTripMs / 2)} ms`)
      if (found.ports < LEAST_PORTS) throw fewPorts(found.ports)
      ok('ports', `${found.ports} local ports, ${found.descriptors} descriptors`)
      if (found.idle < LEAST_IDLE) throw busy(found.idle)
      ok('idle', `${Math.round(found.idle * 100)} % of ${found.cores} cores`)
    })
    return result()
  }
  catch (error) {
    if (!(error instanceof HostProblem)) throw error
    // A step that a later one needed has been passed.
    for (const step of TRY_STEPS.slice(0, TRY_STEPS.indexOf(error.step)))
      if (!steps.some(s => s.step === step)) ok(step, 'passed')
    const failed = { step: error.step, ok: false, said: error.message, remedy: error.remedy }
    const at = steps.findIndex(s => s.step === error.step)
    // What a step promised and a later command disproved is not so.
    if (at >= 0) steps.splice(at, steps.length, failed)
    else steps.push(failed)
    return result()
  }
  finally {
    session?.close()
  }
}

/**
 * Brings a small program as a generator is brought, speaks to it, and takes it away meanwhile: in a run, too, other
 * commands come while a generator is spoken to. @returns which way files come
 */
async function rehearse(session: SshSession, host: SettledHost, home: string): Promise<string> {
  const name = `try-${randomUUID()}`
  const takeAway = async () => (await session.run(`rm -rf ${shellPath(`${host.folder}/${name}`)}`)).err
  let channel: Awaited<ReturnType<typeof speak>> | undefined
  try {
    const { program, way } = await deliver(session, host, home, `${name}/echo`, ECHO)
    channel = await speak(session, host, program)
    await answered(channel, host)
    const problem = await takeAway()
    if (problem)
      throw new HostProblem(
        'disk',
        `what was brought to ${host.folder} cannot be taken away: ${problem.trim().slice(0, 200)}`,
        'Look at the rights of the working directory.',
        true,
      )
    return way ?? 'shell'
  }
  catch (error) {
    await takeAway().catch(() => {
      /* the connection is gone, and told so */
    })
    throw error
  }
  finally {
    channel?.close()
  }
}

async function answered(channel: Awaited<ReturnType<typeof speak>>, { node }: SettledHost): Promise<void> {
  const word = randomUUID()
  await new Promise<void>((resolve, reject) => {
    let out = ''
    let err = ''
    const silent = () =>
      reject(
        new HostProblem(
          'runtime',
          `a program that “${node}” runs there does not answer: ${err.trim().split('\n').at(-1)?.slice(0, 200) || 'it said nothing'}`,
          'Start a program there by hand with it, in a command given to ssh.',
          true,
        ),
      )
    const timer = setTimeout(silent, ANSWER_MS)
    channel.stderr.on('data', (chunk: Buffer) => {
      err += chunk.toString('utf8')
    })
    channel.on('data', (chunk: Buffer) => {
      out += chunk.toString('utf8')
      if (out.includes(word)) {
        clearTimeout(timer)
        resolve()
      }
    })
    channel.on('close', () => {
      clearTimeout(timer)
      silent()
    })
    channel.write(`${word}\n`)
  })
}

/**
 * Does something in a host's working directory; when nobody is in it any more, what was made for it is taken away
 * again.
 */
async function inFolder(
  session: SshSession,
  { address, port, user, folder }: SettledHost,
  act: (session: SshSession, made: Set<string>) => Promise<void>,
): Promise<void> {
  const key = JSON.stringify([address, port, user, folder])
  for (let one = underWay.get(key); one?.removing; one = underWay.get(key)) await one.removing
  const shared = underWay.get(key) ?? { tries: 0, made: new Set() }
  underWay.set(key, shared)
  shared.tries++
  try {
    await act(session, shared.made)
  }
  finally {
    if (--shared.tries === 0) {
      // The innermost first; what somebody else has put something into stays.
      const made = [...shared.made].sort((a, b) => b.length - a.length)
      shared.removing =
        made.length === 0
          ? Promise.resolve()
          : session.run(`rmdir ${made.map(shellWord).join(' ')} 2>/dev/null`).then(
              () => undefined,
              () => undefined,
            )
      await shared.removing
      underWay.delete(key)
    }
  }
}
