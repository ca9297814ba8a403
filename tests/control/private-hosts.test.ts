/**
 * Private hosts behind Debian's own SSH server, and what can be wrong with them: each fault is told at its step, with
 * what to do.
 */
import { spawn } from 'node:child_process'
import { cpus } from 'node:os'
import { createServer, type AddressInfo, type Server } from 'node:net'
import { generateKeyPairSync, randomBytes } from 'node:crypto'
import {
  chmodSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs'
import { join } from 'node:path'
import { csvRows } from '../../control/hosts/read-hosts'
import { realClock } from '../../control/clock'
import { Hosts } from '../../control/hosts/hosts'
import { checkDisk, checkRuntime, type HostFindings } from '../../control/hosts/ssh/host-check'
import { bring, launch, lives, readUnsent, remove, residents } from '../../control/hosts/ssh/resident'
import { bundleOf } from '../../control/link/door'
import { openSession, type SshSession } from '../../control/hosts/ssh/session'
import { hostStore } from '../../control/store/hosts'
import { openStore } from '../../control/store/open'
import { sealingWith } from '../../control/store/sealing'
import { hostOk, settleHost, type Host, type Site, type TryStep } from '../../core/fleet/site'
import { ownFolder } from '../build/folder'
import { freePort } from '../../scripts/ports.cjs'
import { until } from '../build/house'
import { clientKey, OpenSshHost } from '../build/openssh'

const folder = ownFolder()
const key = clientKey()
const other = clientKey()
const store = openStore(join(folder, 'vornak.db'))
const hosts = new Hosts(hostStore(store), sealingWith(join(folder, 'key')), realClock, () => {
  /* not shown */
})
let host: OpenSshHost
let loud: Server
let loudPort = 0
beforeAll(async () => {
  host = await new OpenSshHost('a', join(folder, 'a'), { publicKey: key.public, forwarding: true }).start()
  // Talks for ever, and never as an SSH server does.
  loud = createServer((socket) => {
    const timer = setInterval(() => socket.write('WELCOME TO THE MACHINE ROOM '.repeat(100)), 5)
    socket.on('error', () => clearInterval(timer))
    socket.on('close', () => clearInterval(timer))
  }).listen(0, '127.0.0.1')
  await new Promise(r => loud.once('listening', r))
  loudPort = (loud.address() as AddressInfo).port
  hosts.saveKey('right', key.private, '')
  hosts.saveKey('other', other.private, '')
}, 30_000)
afterAll(async () => {
  await host.stop()
  loud.close()
  store.close()
})
jest.setTimeout(90_000)
const site = (rows: Partial<Host>[], over: Partial<Site['template']> = {}): Site => ({
  id: 's',
  code: 'PRV',
  name: 'Site',
  template: {
    port: host.port,
    user: 'root',
    signIn: { kind: 'key', key: 'right' },
    folder: host.work,
    node: process.execPath,
    ...over,
  },
  hosts: rows.map((r, i) => ({ name: `h${i}`, address: '127.0.0.1', ...r })),
})
/** Tries the first host of a site. @returns the step that failed, or undefined */
async function failing(s: Site): Promise<{ step: TryStep, said: string, remedy?: string } | undefined> {
  hosts.saveSite(s, new Set())
  const tried = (await hosts.try(['s/h0']))['s/h0']!
  return tried.steps.find(x => !x.ok && x.step !== 'idle')
}

describe('a private host', () => {
  it('that is well passes every step, and leaves nothing behind', async () => {
    hosts.saveSite(site([{}]), new Set())
    const tried = (await hosts.try(['s/h0']))['s/h0']!
    expect(tried.steps.map(s => s.step).slice(0, 7)).toEqual([
      'reach',
      'hostKey',
      'signIn',
      'runtime',
      'disk',
      'clock',
      'ports',
    ])
    expect(hostOk(tried)).toBe(true)
    expect(tried.facts!.node).toBe(process.version)
    await until(() => !existsSync(host.work), 10_000, 'what was tried to be taken away')
  })

  it('that is busy is told to be, may be used, and is still known by its cores', async () => {
    hosts.saveSite(site([{}]), new Set())
    const spinning = cpus().map(() =>
      spawn(process.execPath, ['-e', 'for (const end = Date.now() + 20000; Date.now() < end;);']),
    )
    const tried = (await hosts.try(['s/h0']))['s/h0']!
    for (const child of spinning) child.kill('SIGKILL')
    expect(tried.steps.at(-1)).toMatchObject({
      step: 'idle',
      ok: false,
      said: expect.stringMatching(/^only \d+ % of its CPU is idle/) as string,
    })
    expect(hostOk(tried)).toBe(true)
    expect(tried.facts!.cores).toBe(cpus().length)
  })

  it.each<[string, () => Promise<Site> | Site, TryStep, RegExp]>([
    ['does not know the key', () => site([{ key: 'other' }]), 'signIn', /does not let root in with the key “other”/],
    ['has no such user', () => site([{ user: 'nobody-here' }]), 'signIn', /does not let nobody-here in/],
    ['is down', async () => site([{ port: await freePort() }]), 'reach', /is not reached: connect ECONNREFUSED/],
    [
      'has no such name',
      () => site([{ address: 'no-such-host.invalid' }]),
      'reach',
      /is not reached: .*(ENOTFOUND|EAI_AGAIN)/,
    ],
    ['greets with rubbish for ever', () => site([{ port: loudPort }]), 'reach', /not as an SSH server does/],
    [
      'has no Node',
      () => site([{}], { node: 'no-such-node' }),
      'runtime',
      /“no-such-node” is not there: the generator needs Node 20/,
    ],
    [
      'has an old Node',
      () => {
        const old = join(folder, 'old-node')
        writeFileSync(old, '#!/bin/sh\necho v16.20.2\n')
        chmodSync(old, 0o755)
        return site([{}], { node: old })
      },
      'runtime',
      /v16\.20\.2 is too old/,
    ],
    [
      'cannot write its working directory',
      () => {
        writeFileSync(join(folder, 'in-the-way'), '')
        return site([{}], { folder: join(folder, 'in-the-way', 'work') })
      },
      'disk',
      /cannot be written/,
    ],
  ])(
    'that %s fails at its step, and says what to do',
    async (_, made, step, said) => {
      const failed = await failing(await made())
      expect([failed?.step, failed?.said]).toEqual([step, expect.stringMatching(said)])
      expect(failed!.remedy!.length).toBeGreaterThan(10)
    },
    30_000,
  )

  it('whose key has changed is refused until somebody accepts the new one', async () => {
    expect(await failing(site([{}]))).toBeUndefined()
    await host.stop()
    host.newKey()
    await host.start()
    const failed = await failing(site([{}]))
    expect([failed?.step, failed?.said]).toEqual([
      'hostKey',
      expect.stringMatching(/has changed from SHA256:\S+ to SHA256:\S+/),
    ])
    const shown = / to (SHA256:\S+)/.exec(failed!.said)![1]!
    expect(hosts.views().flatMap(v => v.hosts)[0]!.otherKey).toBe(shown)
    // The one that was shown, and no other.
    expect(() => hosts.acceptKey('s/h0', `SHA256:${'a'.repeat(43)}`)).toThrow(`but ${shown}`)
    expect((await failing(site([{}])))?.step).toBe('hostKey')
    hosts.acceptKey('s/h0', shown)
    expect(() => hosts.acceptKey('s/h0', shown)).toThrow('has not shown')
    expect(await failing(site([{}]))).toBeUndefined()
  }, 30_000)

  it('behind another one is reached through it, forwarded', async () => {
    const hidden = await new OpenSshHost('b', join(folder, 'b'), { publicKey: key.public }).start()
    expect(
      await failing(
        site([{ port: hidden.port, folder: hidden.work }], {
          jump: { address: '127.0.0.1', port: host.port, user: 'root' },
        }),
      ),
    ).toBeUndefined()
    await hidden.stop()
  }, 30_000)

  it('that allows one session at a time, without SFTP, passes: what is asked besides goes over a second connection', async () => {
    const narrow = await new OpenSshHost('n', join(folder, 'n'), {
      publicKey: key.public,
      sftp: false,
      more: ['MaxSessions 1'],
    }).start()
    expect(await failing(site([{ port: narrow.port, folder: narrow.work }]))).toBeUndefined()
    await until(() => narrow.left().length === 0 && !existsSync(narrow.work), 10_000, 'what was tried to be taken away')
    // As in a run: something is spoken to all the time, and other things are asked.
    const session = await openSession(
      settleHost(site([]), { name: 'n', address: '127.0.0.1', port: narrow.port }),
      hosts.keyRoom,
    )
    const talk = await session.channel('cat')
    expect((await Promise.all(['a', 'b', 'c'].map(word => session.run(`echo ${word}`)))).map(s => s.out)).toEqual([
      'a\n',
      'b\n',
      'c\n',
    ])
    await session.write(join(folder, 'n', 'written here'), Buffer.from('whole'))
    expect(readFileSync(join(folder, 'n', 'written here'), 'utf8')).toBe('whole')
    talk.close()
    session.close()
    await narrow.stop()
  }, 30_000)

  it('that allows no session at all is told so, with what to do', async () => {
    const closed = await new OpenSshHost('z', join(folder, 'z'), {
      publicKey: key.public,
      more: ['MaxSessions 0'],
    }).start()
    expect(await failing(site([{ port: closed.port, folder: closed.work }]))).toMatchObject({
      step: 'signIn',
      said: expect.stringMatching(/opens no session for a command/),
      remedy: expect.stringContaining('MaxSessions'),
    })
    await closed.stop()
  }, 30_000)

  it.each(['a home with spaces', 'it’s $HOME; `a` "b"'])(
    'whose home is called %s is tried, and gets its generator, there',
    async (name) => {
      const home = join(folder, name)
      mkdirSync(home)
      const spaced = await new OpenSshHost('s', join(folder, 's'), {
        publicKey: key.public,
        more: [`SetEnv "HOME=${home.replaceAll('"', '\\"')}"`],
      }).start()
      const there = site([{ port: spaced.port, folder: '~/vornak/deep' }])
      expect(await failing(there)).toBeUndefined()
      await until(() => readdirSync(home).length === 0, 10_000, 'what was tried to be taken away')
      // The commands of a run.
      const settled = settleHost(there, there.hosts[0]!)
      const session = await openSession(settled, hosts.keyRoom)
      const program = bundleOf(Buffer.from('console.log("vornak:pid=7")\n'))
      const { found, came } = await bring(session, settled, 'v-1', program, realClock)
      expect([found.home, came]).toEqual([home, '0.0 MB copied by SFTP'])
      expect((await bring(session, settled, 'v-1', program, realClock)).came).toBe('was there already')
      expect(await launch(session, settled, program, found.home, { name: 'v-1', token: 't', leaseS: 1 })).toMatchObject(
        { pid: 7 },
      )
      expect(await residents(session, settled, ['v'])).toEqual(['v-1'])
      // What it could not send comes over whole, in several parts, and by its sum.
      expect(await readUnsent(session, settled, 'v-1', program)).toBeUndefined()
      const unsent = randomBytes(1_700_000)
      writeFileSync(join(home, 'vornak/deep/v-1/unsent-frames'), unsent)
      expect(Buffer.compare(Buffer.from((await readUnsent(session, settled, 'v-1', program))!), unsent)).toBe(0)
      const cutting: SshSession = {
        ...session,
        run: (command, options) => session.run(command.replace('base64', 'head -c 9 | base64'), options),
      }
      await expect(readUnsent(cutting, settled, 'v-1', program)).rejects.toThrow('did not come over')
      // Its number has gone to another program since: that one is left alone.
      const stranger = spawn('sleep', ['60'], { stdio: 'ignore' })
      writeFileSync(join(home, 'vornak/deep/v-1/pid'), String(stranger.pid))
      expect(await lives(session, settled, 'v-1', program)).toBe('ended')
      expect(await remove(session, settled, 'v-1', program)).toBe(true)
      expect(readdirSync(join(home, 'vornak'))).toEqual([])
      expect([stranger.exitCode, stranger.signalCode]).toEqual([null, null])
      stranger.kill()
      session.close()
      await spaced.stop()
    },
    30_000,
  )

  it('behind one that forwards nothing is reached through a program there, and without one it is said whose fault it is', async () => {
    const hidden = await new OpenSshHost('b', join(folder, 'b'), { publicKey: key.public }).start()
    const through = async (path: string, port = hidden.port) => {
      const jump = await new OpenSshHost('j', join(folder, 'j'), {
        publicKey: key.public,
        forwarding: false,
        more: [`SetEnv PATH=${path}`],
      }).start()
      const failed = await failing(
        site([{ port, folder: hidden.work }], { jump: { address: '127.0.0.1', port: jump.port, user: 'root' } }),
      )
      await jump.stop()
      return failed
    }
    const few = join(folder, 'few')
    mkdirSync(few)
    symlinkSync('/bin/cat', join(few, 'cat'))
    expect(await through(few)).toMatchObject({
      step: 'reach',
      said: '127.0.0.1, the host in between, leads no further: it forwards nothing, and has no program to pipe with',
      remedy: expect.stringContaining('AllowTcpForwarding'),
    })
    symlinkSync('/bin/bash', join(few, 'bash'))
    expect(await through(few)).toBeUndefined()
    expect(await through(few, await freePort())).toMatchObject({
      step: 'reach',
      said: expect.stringMatching(/^127\.0\.0\.1:\d+ is not reached: from 127\.0\.0\.1: .*refused/i),
    })
    await hidden.stop()
  }, 60_000)

  it('behind one that forwards, but to nobody, is what is not reached', async () => {
    const failed = await failing(
      site([{ port: await freePort() }], { jump: { address: '127.0.0.1', port: host.port, user: 'root' } }),
    )
    expect(failed).toMatchObject({
      step: 'reach',
      said: expect.stringMatching(/is not reached: from 127\.0\.0\.1: .*refused/i),
    })
  }, 30_000)

  it('that is tried several times at once is left as it was, and a directory that was there before stays', async () => {
    // A try that was cut short with its host before may have left it.
    rmSync(host.work, { recursive: true, force: true })
    const deep = join(host.work, 'a', 'b')
    hosts.saveSite(site(Array.from({ length: 3 }, () => ({ folder: deep }))), new Set())
    const refs = Array.from({ length: 3 }, (_, i) => `s/h${i}`)
    for (let again = 0; again < 2; again++) {
      const tries = await Promise.all([hosts.try(refs), hosts.try(refs.slice(0, 2))])
      expect(tries.flatMap(t => Object.values(t)).map(t => t.steps.find(s => !s.ok && s.step !== 'idle'))).toEqual(
        new Array(5).fill(undefined),
      )
      await until(() => !existsSync(host.work), 10_000, 'what was tried to be taken away')
    }
    mkdirSync(host.work)
    await hosts.try(refs)
    expect([existsSync(host.work), host.left()]).toEqual([true, []])
  }, 60_000)

  it('with a full disk, or an old runtime, is told by what it says of itself', () => {
    const settled = settleHost(site([{}]), { name: 'h0', address: '127.0.0.1' })
    const found: HostFindings = {
      home: '/root',
      node: 'v20.1.0',
      missing: [],
      made: [],
      folderError: '',
      diskFreeMb: 1000,
      cores: 2,
      memoryMb: 1000,
      descriptors: 1024,
      ports: 28_232,
      idle: 1,
      clock: { offsetMs: 0, roundTripMs: 1 },
    }
    expect(() => checkDisk(settled, found)).not.toThrow()
    expect(() => checkDisk(settled, { ...found, diskFreeMb: 12 })).toThrow('has 12 MB left')
    expect(() => checkRuntime(settled, { ...found, node: 'v18.19.0' })).toThrow('too old')
  })

  it('tells a file that did not fit on its disk', async () => {
    const settled = settleHost(site([{}]), { name: 'h0', address: '127.0.0.1' })
    const session = await openSession(settled, hosts.keyRoom)
    mkdirSync(host.work, { recursive: true })
    // /dev/full answers every write with “no space left on device” (full(4)).
    await expect(session.write('/dev/full', new Uint8Array(100_000))).rejects.toMatchObject({
      step: 'disk',
      remedy: expect.stringContaining('disk'),
    })
    session.close()
  })
})

describe('the table of private hosts', () => {
  it('are read from a pasted table, by headings or in their usual order, and a fault names its row', () => {
    expect(csvRows('name\taddress\tcores\n ovk-a \t10.0.0.1\t2\novk-b\t10.0.0.2\t')).toEqual([
      { name: 'ovk-a', address: '10.0.0.1', cores: 2 },
      { name: 'ovk-b', address: '10.0.0.2' },
    ])
    expect(csvRows('ovk-a,10.0.0.1,2222,load')).toEqual([
      { name: 'ovk-a', address: '10.0.0.1', port: 2222, user: 'load' },
    ])
    expect(csvRows('Name;Address;Reserved by;Reserved until\na;h1;Networks;2026-11-26T18:00')[0]).toMatchObject({
      reservedBy: 'Networks',
      reservedUntil: expect.stringMatching(/^2026-11-26T/),
    })
    for (const [text, said] of [
      ['', 'empty'],
      ['name,address\na,b c', 'Row 2: “b c” is no address'],
      ['a,h1,99999', 'Row 1: “99999” is no port'],
      ['name,colour\na,red', 'a column “colour”'],
      ['name,address,folder\na,h,~/x;rm', 'Row 2: “~/x;rm” is no directory'],
    ] as const) {
      expect(() => csvRows(text)).toThrow(said)
    }
  })

  it('keep what is in use, and keys that are used', () => {
    hosts.saveSite(site([{}, {}]), new Set())
    expect(() => hosts.saveSite(site([{}]), new Set(['s/h1']))).toThrow('h1 has a machine of a run')
    expect(() => hosts.dropSite('s', new Set(['s/h0']))).toThrow('have machines of a run')
    expect(() => hosts.dropKey('right')).toThrow('signs in with “right”')
    expect(() => hosts.saveSite(site([{ key: 'none' }]), new Set())).toThrow('There is no key “none”')
    expect(() => hosts.saveKey('x', 'rubbish', '')).toThrow('cannot be opened')
    expect(() => hosts.saveKey('x', key.public, '')).toThrow('public half')
    const locked = clientKey('phrase')
    expect(() => hosts.saveKey('x', locked.private, 'wrong')).toThrow(/cannot be opened/)
    for (const missing of ['', undefined as never]) {
      expect(() => hosts.saveKey('x', locked.private, missing)).toThrow(
        expect.objectContaining({ message: 'The key is encrypted.', remedy: 'Enter its passphrase.' }),
      )
    }
    expect(() =>
      hosts.saveKey(
        'x',
        generateKeyPairSync('ed25519').privateKey.export({
          type: 'pkcs8',
          format: 'pem',
          cipher: 'aes-256-cbc',
          passphrase: 'phrase',
        }) as string,
        'phrase',
      ),
    ).toThrow(expect.objectContaining({ remedy: expect.stringContaining('ssh-keygen -p') }))
    expect(hosts.saveKey('x', locked.private, 'phrase').fingerprint).toMatch(/^SHA256:[\w+/]{43}$/)
  })

  it('open a key with a passphrase once, not for every connection; another key under its name is another', () => {
    hosts.saveKey('x', clientKey('phrase').private, 'phrase')
    const { keyRoom } = hosts
    const first = keyRoom.key('x')
    expect(first).toMatchObject({ type: 'ssh-ed25519' })
    expect(keyRoom.key('x')).toBe(first)
    hosts.saveKey('x', clientKey().private, '')
    expect(keyRoom.key('x')).not.toBe(first)
    hosts.dropKey('x')
    expect(keyRoom.key('x')).toBeUndefined()
  })
})
