/**
 * A generator living on a host: brought there if it is not, launched, talked to, its log collected, ended and removed
 * without a trace.
 */
import { createHash } from 'node:crypto'
import type { SettledHost } from '../../../core/fleet/site'
import type { Clock } from '../../clock'
import type { Bundle } from '../../link/door'
import { checkDisk, checkRuntime, findings, readSaid, type HostFindings } from './host-check'
import { HostProblem } from './problem'
import type { SshSession } from './session'
import { shellPath, shellWord } from './shell'

/** What a generator is launched with. */
export interface ResidentOrder {
  name: string
  token: string
  leaseS: number
}

/** Most of a log that is collected, bytes. */
const MOST_LOG = 200_000
/** A generator that was told to end gets this long, s, before it is ended. */
const PATIENCE_S = 3

/** Files on a host, all below its working directory. */
function places({ folder }: SettledHost, name: string, { hash }: Pick<Bundle, 'hash'>) {
  return {
    folder: shellPath(folder),
    program: shellPath(`${folder}/vornak-generator-${hash.slice(0, 16)}.mjs`),
    own: shellPath(`${folder}/${name}`),
  }
}

/**
 * Checks the host, and brings the generator there if that release of it is not there already. @returns what was found,
 * and how it came @throws HostProblem
 */
export async function bring(
  session: SshSession,
  host: SettledHost,
  name: string,
  bundle: Bundle,
  clock: Clock,
): Promise<{ found: HostFindings, came: string }> {
  const found = await findings(session, host, clock)
  checkRuntime(host, found)
  checkDisk(host, found)
  const { folder, own } = places(host, name, bundle)
  // Its own directory keeps the working directory there, though others tidy up.
  await must(session, `umask 077; mkdir -p ${own} && rm -f ${folder}/vornak-generator-*.part`)
  const { way } = await deliver(session, host, found.home, 'vornak-generator', bundle)
  return { found, came: way ? `${(bundle.content.length / 1e6).toFixed(1)} MB copied by ${way}` : 'was there already' }
}

/**
 * Brings a program into the working directory whole: written beside, then moved to its place and read again. One that
 * is there whole already stays.
 *
 * @param home the user's, as the host says @param name path of the program below the working directory, without its
 * hash @returns the program as a shell finds it, and the way it came
 */
export async function deliver(
  session: SshSession,
  host: SettledHost,
  home: string,
  name: string,
  { content, hash }: Bundle,
): Promise<{ program: string, way?: string }> {
  const path = `${host.folder}/${name}-${hash.slice(0, 16)}`
  const program = shellPath(`${path}.mjs`)
  const before = await must(
    session,
    `umask 077; mkdir -p ${shellPath(path.slice(0, path.lastIndexOf('/')))} && { sha256sum ${program} 2>/dev/null || true; }`,
  )
  if (before.includes(hash)) return { program }
  // SFTP knows no shell: its path starts where the shell's does not.
  const way = await session.write(`${path.replace(/^~(?=\/)/, home)}.part`, content)
  const after = await must(session, `mv ${shellPath(`${path}.part`)} ${program} && sha256sum ${program}`)
  if (!after.includes(hash))
    throw new HostProblem(
      'disk',
      `the generator arrived damaged on ${host.address}`,
      'Look at the disk; Vornak tries again.',
      false,
    )
  return { program, way }
}

/**
 * Starts a program whose standard input and output are a stream. @param program and its arguments, as a shell reads
 * them
 */
export function speak(session: SshSession, { node }: SettledHost, program: string) {
  return session.channel(`${shellWord(node)} ${program}`)
}

/** Starts the generator apart from the connection; one that runs already is left alone. @throws HostProblem */
export async function launch(
  session: SshSession,
  host: SettledHost,
  bundle: Bundle,
  home: string,
  { name, token, leaseS }: ResidentOrder,
): Promise<{ pid: number, already: boolean }> {
  const { program } = places(host, name, bundle)
  const order = JSON.stringify({
    folder: `${host.folder.replace(/^~/, home)}/${name}`,
    token,
    machine: host.name,
    leaseS,
    ...(host.cores ? { cores: host.cores } : {}),
    ...(host.proxy ? { proxy: host.proxy } : {}),
    ...(host.environment ? { environment: host.environment } : {}),
  })
  const { out, err, code } = await session.run(`${shellWord(host.node)} ${program} launch`, { input: order })
  const said = readSaid(out)
  if (!said.pid)
    throw new HostProblem(
      'runtime',
      `the generator did not start on ${host.address}: ${err.trim().split('\n').slice(-3).join(' ').slice(0, 400) || `exit code ${code}`}`,
      'Start the program there by hand to see more.',
      false,
    )
  return { pid: Number(said.pid), already: said.already === 'true' }
}

/**
 * A function for the host's shell: whether a process is this generator. Its number may have gone to another program
 * since, so it is held against its environment, where the system shows that.
 *
 * @param name of letters, digits and dashes
 */
function ours(name: string): string {
  return `ours() { kill -0 "$1" 2>/dev/null && { [ ! -r /proc/self/environ ] || tr '\\0' '\\n' <"/proc/$1/environ" 2>/dev/null | grep -q '^VORNAK_FOLDER=.*/${name}$'; }; }`
}

/** Whether it still runs, and whether it ever did. */
export async function lives(
  session: SshSession,
  host: SettledHost,
  name: string,
  bundle: Bundle,
): Promise<'runs' | 'ended' | 'never'> {
  const { own } = places(host, name, bundle)
  const { out } = await session.run(
    `${ours(name)}; p=$(cat ${own}/pid 2>/dev/null); if [ -z "$p" ]; then echo vornak:is=never; elif ours "$p"; then echo vornak:is=runs; else echo vornak:is=ended; fi`,
  )
  // The script says one of these and nothing else.
  return readSaid(out).is as 'runs' | 'ended' | 'never'
}

/** A stream to it; ends when the connection or the generator does. */
export function openRelay(session: SshSession, host: SettledHost, name: string, bundle: Bundle) {
  const { program, own } = places(host, name, bundle)
  return speak(session, host, `${program} relay ${own}`)
}

export async function readLog(
  session: SshSession,
  host: SettledHost,
  name: string,
  bundle: Bundle,
): Promise<string | undefined> {
  const { own } = places(host, name, bundle)
  const { code, out } = await session.run(`tail -c ${MOST_LOG} ${own}/generator.log 2>/dev/null`)
  return code === 0 ? out : undefined
}

/** Frames it could not send, as it left them: whole, by the sum the host says. @throws HostProblem when they are not */
export async function readUnsent(
  session: SshSession,
  host: SettledHost,
  name: string,
  bundle: Bundle,
): Promise<Uint8Array | undefined> {
  const file = `${places(host, name, bundle).own}/unsent-frames`
  const { out: told } = await session.run(
    `[ -s ${file} ] && wc -c <${file} && { sha256sum <${file} 2>/dev/null || shasum -a 256 <${file}; }`,
  )
  const [, size, sum] = /^\s*(\d+)\s+([0-9a-f]{64})\b/.exec(told) ?? []
  if (!size || !sum) return undefined
  if (Number(size) > MOST_UNSENT)
    throw new HostProblem('disk', `${name} left ${size} bytes, more than a generator keeps`, 'Look at the host.', false)
  const parts: Buffer[] = []
  for (let at = 0; at < Number(size); at += PART_BYTES) {
    const { out } = await session.run(`tail -c +${at + 1} ${file} | head -c ${PART_BYTES} | base64`, {
      timeoutMs: 120_000,
    })
    parts.push(Buffer.from(out, 'base64'))
  }
  const whole = Buffer.concat(parts)
  if (createHash('sha256').update(whole).digest('hex') !== sum)
    throw new HostProblem('reach', `What ${name} left did not come over as it is there`, 'It is tried again.', false)
  return whole
}

/** Read at a time: as base64 it is less than a command may say, bytes. */
const PART_BYTES = 700 * 1024
/** More than a generator's spool holds, bytes. */
const MOST_UNSENT = 256 * 1024 * 1024

/** Names of generators of ours that live, or lie, on a host. */
export async function residents(session: SshSession, host: SettledHost, labels: readonly string[]): Promise<string[]> {
  const { out } = await session.run(
    `cd ${shellPath(host.folder)} 2>/dev/null && for d in ${labels.map(label => `${label}-*`).join(' ')}; do [ -d "$d" ] && echo "vornak:found=$d"; done`,
  )
  return [...out.matchAll(/vornak:found=(\S+)/g)].map(m => m[1]!)
}

/**
 * Ends it and takes away everything it brought; the program too, when nobody else of ours is there. @returns whether
 * the host confirms that nothing is left
 */
export async function remove(session: SshSession, host: SettledHost, name: string, bundle: Bundle): Promise<boolean> {
  const { folder, own } = places(host, name, bundle)
  const { out } = await session.run(
    `
${ours(name)}
p=$(cat ${own}/pid 2>/dev/null)
if [ -n "$p" ] && ours "$p"; then
  i=0; while ours "$p" && [ $i -lt ${PATIENCE_S * 10} ]; do i=$((i+1)); [ $i -eq 10 ] && kill "$p" 2>/dev/null; sleep 0.1 2>/dev/null || sleep 1; done
  ours "$p" && kill -9 "$p" 2>/dev/null
fi
rm -rf ${own}
ls -d ${folder}/*/ >/dev/null 2>&1 || rm -f ${folder}/vornak-generator-*
rmdir ${folder} 2>/dev/null
if { [ -n "$p" ] && ours "$p"; } || [ -e ${own} ]; then echo vornak:left=yes; else echo vornak:left=no; fi`,
    { timeoutMs: 20_000 },
  )
  return readSaid(out).left === 'no'
}

/** @returns what it said @throws HostProblem when it fails */
async function must(session: SshSession, command: string): Promise<string> {
  const { code, out, err } = await session.run(command)
  if (code !== 0)
    throw new HostProblem(
      'disk',
      err.trim().slice(0, 300) || `“${command}” ended with ${code}`,
      'Look at the disk and the rights of the working directory.',
      false,
    )
  return out
}
