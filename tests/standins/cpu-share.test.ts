/** A machine is held to its share of the CPU, and is left alone below it. */
import { spawn, type ChildProcess } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { holdToShare } from '../../standins/nimbral-cloud/cpu-share'
import { timed } from '../build/timed'

const children: ChildProcess[] = []
afterAll(() => children.forEach(c => c.kill('SIGKILL')))

function start(program: string): ChildProcess {
  const child = spawn(process.execPath, ['-e', program], { stdio: ['ignore', 'pipe', 'inherit'] })
  children.push(child)
  return child
}
/** CPU used so far, ms: user and system ticks of 10 ms (proc(5)). */
function usedMs(pid: number): number {
  const fields = readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1]!.split(' ')
  return (Number(fields[11]) + Number(fields[12])) * 10
}
const wait = (ms: number) => new Promise(r => setTimeout(r, ms))

describe('a machine’s share of the CPU', () => {
  timed(
    'is not passed by a program that wants everything',
    async () => {
      const child = start('for (;;) {}')
      const hold = holdToShare(child.pid!, `test-${child.pid}`, 0.3)
      await wait(500)
      const [used, at] = [usedMs(child.pid!), performance.now()]
      await wait(2000)
      const share = (usedMs(child.pid!) - used) / (performance.now() - at)
      expect(share).toBeGreaterThan(0.05)
      expect(share).toBeLessThan(0.36)
      hold.end()
      child.kill('SIGKILL')
    },
    20_000,
  )

  timed(
    'leaves the timers of a program that wants little alone',
    async () => {
      const child = start(
        'let late = [], at = performance.now(); const next = () => { late.push(performance.now() - at - 20); at = performance.now(); if (late.length < 80) setTimeout(next, 20); else { late.sort((a, b) => a - b); process.stdout.write(String(late[40])) } }; setTimeout(next, 20)',
      )
      const hold = holdToShare(child.pid!, `test-${child.pid}`, 0.3)
      const median = await new Promise<number>(r => child.stdout!.once('data', (d: Buffer) => r(Number(d.toString()))))
      expect(median).toBeLessThan(5)
      hold.end()
    },
    20_000,
  )
})
