import type { IncomingMessage } from 'node:http'
import { guardBody, guardForwarded, guardHost, guardOrigin, MOST_BODY_BYTES } from '../../main/guards'
import { readSettings } from '../../main/settings'
import { csvOf } from '../../core/formats/csv'

const request = (method: string, headers: Record<string, string>) => ({ method, headers }) as unknown as IncomingMessage
const names = new Set(['127.0.0.1:4700'])

describe('guards at the door', () => {
  it('answer only to the server’s own name', () => {
    expect(guardHost(request('GET', { host: '127.0.0.1:4700' }), names)).toBeUndefined()
    expect(guardHost(request('GET', { host: 'evil.test' }), names)).toMatchObject({ status: 421 })
    expect(guardHost(request('GET', {}), names)).toMatchObject({ status: 421 })
  })

  it('turn other sites’ pages away, not programs', () => {
    const own = new Set(['http://127.0.0.1:4700'])
    expect(guardOrigin(request('GET', {}), own)).toBeUndefined()
    expect(guardOrigin(request('POST', { origin: 'http://evil.test' }), own)).toMatchObject({ status: 403 })
    expect(guardOrigin(request('POST', { origin: 'null' }), own)).toMatchObject({ status: 403 })
  })

  it('turn away what a proxy brings, until they were told of it', () => {
    for (const name of ['forwarded', 'x-forwarded-for', 'x-forwarded-host', 'x-real-ip']) {
      const brought = request('GET', { host: '127.0.0.1:4700', [name]: '203.0.113.5' })
      expect(guardForwarded(brought, false)).toMatchObject({ status: 403, code: 'forwarded' })
      expect(guardForwarded(brought, true)).toBeUndefined()
    }
    expect(guardForwarded(request('GET', { host: '127.0.0.1:4700' }), false)).toBeUndefined()
  })

  it('want JSON for what changes something, and not too much', () => {
    expect(guardBody(request('GET', {}))).toBeUndefined()
    expect(guardBody(request('POST', { 'content-type': 'text/plain' }))).toMatchObject({ status: 415 })
    expect(guardBody(request('POST', { 'content-type': 'application/json; charset=utf-8' }))).toBeUndefined()
    expect(
      guardBody(request('PUT', { 'content-type': 'application/json', 'content-length': String(MOST_BODY_BYTES + 1) })),
    ).toMatchObject({ status: 413 })
    // Files go to their own door, under a content type no foreign form can send.
    const upload = {
      method: 'POST',
      url: '/api/files?name=a',
      headers: { 'content-type': 'application/octet-stream' },
    } as unknown as IncomingMessage
    expect(guardBody(upload)).toBeUndefined()
    expect(guardBody({ ...upload, url: '/api/filesystem' } as IncomingMessage)).toMatchObject({ status: 415 })
    expect(
      guardBody({ ...upload, headers: { 'content-type': 'multipart/form-data' } } as unknown as IncomingMessage),
    ).toMatchObject({ status: 415 })
  })
})

describe('settings', () => {
  it('have defaults that bind to this machine alone, and say what is wrong', () => {
    expect(readSettings({})).toMatchObject({ host: '127.0.0.1', port: 4700, dailyBudget: 20 })
    expect(() => readSettings({ VORNAK_PORT: 'x' })).toThrow('VORNAK_PORT is “x”')
    expect(() => readSettings({ VORNAK_DAILY_BUDGET: '-1' })).toThrow('VORNAK_DAILY_BUDGET')
  })
})

describe('CSV', () => {
  it('follows RFC 4180 and defuses formulas', () => {
    expect(
      csvOf([
        ['a,b', 'say "x"', 3],
        ['=1+1', undefined, null],
        ['one\rtwo', 'one\ntwo', -5],
      ]),
    ).toBe('"a,b","say ""x""",3\r\n"\'=1+1",,\r\n"one\rtwo","one\ntwo",-5\r\n')
  })
})
