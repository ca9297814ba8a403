/**
 * What runs on the cloud's machines: a real process of the generator each, held to its share of the CPU; or one program
 * that plays them all.
 */
import { spawn, type ChildProcess } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { holdToShare, type Hold } from './cpu-share'

export interface ProgramOrder {
  id: string
  name: string
  environment: Record<string, string>
  cores: number
  memoryMb: number
  clockOffS: number
}

/** A program that runs. */
export interface Running {
  /** Bytes it has written out so far; sockets and files alike, as the kernel counts them. */
  bytesOut(): number
  end(): void
}

export interface Programs {
  start(order: ProgramOrder, onExit: (code: number | null) => void): Running
  /** Whatever it keeps for all of them. */
  stop(): void
}

/** A process that does not end when it is told to is ended after this, ms. */
const PATIENCE_MS = 3000

/** @param program file of the generator */
export function processes(program: string): Programs {
  return {
    start({ id, name, environment, cores, memoryMb, clockOffS }, onExit) {
      const folder = mkdtempSync(join(tmpdir(), 'nimbral-'))
      const child = spawn(process.execPath, [program], {
        cwd: folder,
        stdio: ['ignore', 'ignore', 'pipe'],
        env: {
          PATH: process.env.PATH,
          ...environment,
          VORNAK_MACHINE: name,
          VORNAK_CORES: String(cores),
          VORNAK_MEMORY_MB: String(memoryMb),
          VORNAK_FOLDER: folder,
          ...(clockOffS ? { NODE_OPTIONS: `--require ${wrongClock(folder, clockOffS)}` } : {}),
        },
      })
      const hold: Hold | undefined = child.pid === undefined ? undefined : holdToShare(child.pid, id, cores)
      child.stderr.on('data', (text: Buffer) => process.stderr.write(`[${name}] ${text.toString()}`))
      child.on('error', error => process.stderr.write(`[${name}] ${error.message}\n`))
      child.on('exit', (code) => {
        hold?.end()
        rmSync(folder, { recursive: true, force: true })
        onExit(code)
      })
      return { bytesOut: () => bytesOut(child), end: () => endProcess(child) }
    },
    stop() {
      /* nothing is shared */
    },
  }
}

function endProcess(child: ChildProcess): void {
  if (child.exitCode !== null || child.signalCode !== null) return
  child.kill('SIGCONT')
  child.kill('SIGTERM')
  setTimeout(() => {
    if (child.exitCode === null) child.kill('SIGKILL')
  }, PATIENCE_MS).unref()
}

/** /proc/PID/io (proc(5)): characters written, whatever to. */
function bytesOut(child: ChildProcess): number {
  try {
    return Number(/^wchar: (\d+)/m.exec(readFileSync(`/proc/${child.pid}/io`, 'utf8'))?.[1] ?? 0)
  }
  catch {
    return 0
  }
}

/** A file that puts a process's wall clock off. */
function wrongClock(folder: string, offS: number): string {
  const file = join(folder, 'clock.cjs')
  writeFileSync(
    file,
    `const at = performance.timeOrigin + ${offS * 1000}; Object.defineProperty(performance, 'timeOrigin', { value: at })\n`,
  )
  return file
}

/**
 * One process plays all machines. @param program file of the simulator: reads `{start: {id, name, environment}}` and
 * `{end: id}` as lines
 */
export function simulated(program: string): Programs {
  const child = spawn(process.execPath, [program], { stdio: ['pipe', 'inherit', 'inherit'] })
  const say = (line: object) => void child.stdin.write(`${JSON.stringify(line)}\n`)
  return {
    start({ id, name, environment }, onExit) {
      say({ start: { id, name, environment } })
      return {
        bytesOut: () => 0,
        end() {
          say({ end: id })
          onExit(0)
        },
      }
    },
    stop: () => {
      child.kill('SIGTERM')
    },
  }
}
