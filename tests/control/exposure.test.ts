/** To whom the operators’ door is open, and what pages may do. */
import { createServer, type IncomingMessage } from 'node:http'
import { contentPolicyOf } from '../../main/content-policy'
import { OpenToOthers, refuseOpen, refuseUnguarded } from '../../main/exposure'
import { guardOf } from '../../main/guard-of'
import { readSettings } from '../../main/settings'

type Guarded = IncomingMessage & { vornakFrom?: string }
const set = (env: Record<string, string>) => readSettings(env)

describe('on a network', () => {
  it.each(['127.0.0.1', '127.3.2.1', '::1', 'localhost'])('%s is this computer', (host) => {
    refuseUnguarded(set({ VORNAK_HOST: host }))
    refuseOpen(set({ VORNAK_HOST: host }), true)
  })

  it.each(['0.0.0.0', '192.0.2.7', '::', 'load.example', '128.0.0.1'])('%s is not, and wants TLS and people', (host) => {
    expect(() => refuseUnguarded(set({ VORNAK_HOST: host }))).toThrow(OpenToOthers)
    expect(() => refuseUnguarded(set({ VORNAK_HOST: host }))).toThrow('VORNAK_TLS_CERT')
    refuseUnguarded(set({ VORNAK_HOST: host, VORNAK_TLS_CERT: 'a', VORNAK_TLS_KEY: 'b' }))
    refuseUnguarded(set({ VORNAK_HOST: host, VORNAK_PROXY: '192.0.2.1' }))
    expect(() => refuseOpen(set({ VORNAK_HOST: host }), true)).toThrow('npm run person')
    refuseOpen(set({ VORNAK_HOST: host }), false)
  })

  it('wants certificate and key together', () => {
    expect(() => set({ VORNAK_TLS_CERT: 'a' })).toThrow('VORNAK_TLS_KEY')
  })
})

describe('the guard', () => {
  const settings = set({ VORNAK_PROXY: '192.0.2.0/24', VORNAK_ADDRESS: 'https://load.example' })
  const from = (remoteAddress: string, headers: Record<string, string>, url = '/api/plans'): Guarded =>
    ({ url, headers, socket: { remoteAddress }, connection: { remoteAddress } }) as unknown as Guarded

  it('takes what a proxy brings only from one it was told of, once people can sign in', () => {
    const [open, closed] = [guardOf(settings, () => true), guardOf(settings, () => false)]
    const brought = (by: string) => from(by, { host: 'load.example', 'x-forwarded-for': '203.0.113.9, 192.0.2.8' })
    expect(closed(brought('203.0.113.1'))).toMatchObject({ code: 'forwarded' })
    const request = brought('192.0.2.1')
    expect(closed(request)).toBeUndefined()
    // The last that no proxy of ours stands at: what is further left anybody can write.
    expect(request.vornakFrom).toBe('203.0.113.9')
    const here = from('192.0.2.1', { host: '127.0.0.1:4700', 'x-forwarded-for': '203.0.113.9' })
    expect(open(here)).toMatchObject({ code: 'forwarded' })
  })

  it('while nobody can sign in, is called by this computer’s names alone', () => {
    const open = guardOf(settings, () => true)
    expect(open(from('127.0.0.1', { host: 'load.example' }))).toMatchObject({ code: 'host' })
    expect(open(from('127.0.0.1', { host: '127.0.0.1:4700' }))).toBeUndefined()
    expect(guardOf(settings, () => false)(from('127.0.0.1', { host: 'load.example' }))).toBeUndefined()
  })
})

describe('the pages', () => {
  it('run their own scripts, and those in the page by their SHA-256 (CSP Level 3, 6.7.2: a worked example)', async () => {
    const pages = createServer((_, response) => {
      response.setHeader('content-type', 'text/html')
      response.end('<script src="/a.js"></script><script>alert(\'Hello, world.\');</script><script type="module">b</script>')
    })
    const policy = await contentPolicyOf(pages.listeners('request')[0] as never)
    // https://www.w3.org/TR/CSP3/ prints this hash of this script.
    expect(policy).toContain('\'sha256-qznLcsROx4GACP2dm0UCKCzCG+HiZ1guq6ZZDob/Tng=\'')
    expect(policy).toContain('default-src \'self\'; ')
    expect(policy).toContain('frame-ancestors \'none\'')
    expect(/script-src ([^;]*)/.exec(policy)![1]!.split(' ')).toHaveLength(3)
    expect(policy).not.toContain('unsafe-eval')
  })
})
