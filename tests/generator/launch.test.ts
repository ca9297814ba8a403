/**
 * A generator on a host it was brought to: launched once, however often it is asked; spoken to through relays; ended by
 * its watchdog when nobody else does.
 */
import { spawn, spawnSync } from 'node:child_process'
import { existsSync, readFileSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { framed, STREAM_MARK, StreamReader } from '../../protocol/stream'
import { PROTOCOL_VERSION } from '../../protocol/version'
import { ownFolder } from '../build/folder'

const PROGRAM = join(__dirname, '../../dist/generator.mjs')
const root = ownFolder()
const launch = (folder: string, leaseS: number) =>
  spawnSync(process.execPath, [PROGRAM, 'launch'], {
    input: JSON.stringify({ folder, token: 'a-token', machine: 'm', leaseS, cores: 1 }),
    encoding: 'utf8',
    timeout: 20_000,
  })
const alive = (pid: number) => {
  try {
    return process.kill(pid, 0)
  }
  catch {
    return false
  }
}
const until = async (is: () => boolean) => {
  while (!is()) await new Promise(r => setTimeout(r, 50))
}

describe('a launched generator', () => {
  it('runs once, speaks to the one that relays last, and keeps its secrets out of its arguments', async () => {
    const folder = join(root, 'one')
    const first = launch(folder, 3600)
    const pid = Number(/vornak:pid=(\d+)/.exec(first.stdout)![1])
    expect(first.stdout).toContain('vornak:already=false')
    expect(launch(folder, 3600).stdout).toBe(`vornak:pid=${pid}\nvornak:already=true\n`)
    expect(readFileSync(`/proc/${pid}/cmdline`, 'utf8')).not.toContain('a-token')
    await until(() => existsSync(join(folder, 'link')))
    expect(statSync(folder).mode & 0o077).toBe(0)
    const relay = spawn(process.execPath, [PROGRAM, 'relay', folder], { stdio: ['pipe', 'pipe', 'inherit'] })
    const enrol = await new Promise<{ kind: string, token: string }>((resolve) => {
      const reader = new StreamReader(message =>
        resolve(JSON.parse(message as string) as { kind: string, token: string }),
      )
      relay.stdout.on('data', (chunk: Buffer) => {
        if (chunk.includes(STREAM_MARK))
          relay.stdin.write(framed(JSON.stringify({ kind: 'hello', version: PROTOCOL_VERSION, epoch: 1, nonce: 'n' })))
        reader.take(chunk)
      })
    })
    expect(enrol).toMatchObject({ kind: 'enrol', token: 'a-token' })
    relay.kill()
    await new Promise(r => relay.once('exit', r))
    expect(alive(pid)).toBe(true)
    process.kill(pid, 'SIGTERM')
    await until(() => !alive(pid))
  }, 30_000)

  it('is ended by its watchdog a minute after its lease, though nobody ever spoke to it', async () => {
    const folder = join(root, 'two')
    // The minute of grace has passed but for two seconds.
    const pid = Number(/vornak:pid=(\d+)/.exec(launch(folder, -58).stdout)![1])
    expect(alive(pid)).toBe(true)
    await until(() => !alive(pid))
    expect(existsSync(join(folder, 'generator.log'))).toBe(true)
  }, 30_000)
})
