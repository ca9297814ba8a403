/** What can go wrong with a host: at which step, what happened, what to do. */
import type { TryStep } from '../../../core/fleet/site'

export class HostProblem extends Error {
  override name = 'HostProblem'
  /** @param lasting trying again does not help until somebody has fixed it */
  constructor(
    readonly step: TryStep,
    sentence: string,
    readonly remedy: string,
    readonly lasting: boolean,
  ) {
    super(sentence)
  }
}

export const notReached = (address: string, why: string) =>
  new HostProblem(
    'reach',
    `${address} is not reached: ${why}`,
    'Check address, port and firewall, and that the host is up.',
    false,
  )
/** The host is there, and a command on it takes too long. */
export class CommandTimeout extends HostProblem {
  constructor(
    address: string,
    readonly timeoutMs: number,
  ) {
    super(
      'reach',
      `${address}: a command did not end within ${timeoutMs / 1000} s`,
      'See on the host what keeps it: its load, its disk, its shell.',
      false,
    )
  }
}

export const noWayThrough = (by: string, why: string) =>
  new HostProblem(
    'reach',
    `${by}, the host in between, leads no further: ${why}`,
    'Let its sshd forward TCP (AllowTcpForwarding), or install nc, ncat, socat or bash there.',
    true,
  )
export const notSsh = (address: string, why: string) =>
  new HostProblem(
    'reach',
    `${address} answers, but not as an SSH server does: ${why}`,
    'Check the port: something else may listen there. If it is the right one, the host is too busy to answer; try again.',
    false,
  )
export const keyChanged = (address: string, before: string, now: string) =>
  new HostProblem(
    'hostKey',
    `The key of ${address} has changed from ${before} to ${now}`,
    'If the host was set up anew, accept the new key. If nobody knows why, somebody may stand in between: do not.',
    true,
  )
export const notSignedIn = (user: string, address: string, how: string) =>
  new HostProblem(
    'signIn',
    `${address} does not let ${user} in with ${how}`,
    'Put the public half of the key into that user’s authorized_keys, or choose another key or user.',
    true,
  )
export const noSuchKey = (name: string) =>
  new HostProblem('signIn', `There is no key “${name}” here`, 'Add it under this name, or choose another.', true)
export const noAgent = () =>
  new HostProblem(
    'signIn',
    'Vornak’s own process has no SSH agent (SSH_AUTH_SOCK is not set)',
    'Start Vornak with the agent’s address, or use a key.',
    true,
  )
export const noNode = (node: string, said: string) =>
  new HostProblem(
    'runtime',
    said === ''
      ? `“${node}” is not there: the generator needs Node 20 or later`
      : `${said} is too old: the generator needs Node 20 or later`,
    'Install Node 20 or later on the host, or write the path of one in its template.',
    true,
  )
export const noTools = (missing: readonly string[]) =>
  new HostProblem(
    'runtime',
    `${missing.join(', ')} ${missing.length === 1 ? 'is' : 'are'} not there`,
    'Install GNU coreutils or their like on the host.',
    true,
  )
export const noFolder = (folder: string, why: string) =>
  new HostProblem(
    'disk',
    `${folder} cannot be written: ${why}`,
    'Choose another working directory, or let the user write there.',
    true,
  )
export const diskFull = (folder: string, freeMb: number) =>
  new HostProblem(
    'disk',
    `${folder} has ${freeMb} MB left: the generator and what it cannot send need ${LEAST_DISK_MB}`,
    'Free some disk, or choose another working directory.',
    false,
  )
export const fewPorts = (ports: number) =>
  new HostProblem('ports', `only ${ports} local ports may be used`, 'Widen net.ipv4.ip_local_port_range.', true)
export const busy = (idle: number) =>
  new HostProblem(
    'idle',
    `only ${Math.round(idle * 100)} % of its CPU is idle`,
    'See what else runs there; what is measured beside it would be off.',
    false,
  )
export const clockFar = (offsetMs: number) =>
  new HostProblem(
    'clock',
    `its clock is ${(offsetMs / 1000).toFixed(0)} s off`,
    'It is corrected for in results; set it right all the same, for certificates and logs.',
    false,
  )

/** Least free disk, MB. */
export const LEAST_DISK_MB = 300
