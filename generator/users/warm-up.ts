/**
 * Runs the hot path for a moment against a server of its own, before the start barrier: cold code under a CPU limit put
 * generators a second behind (measured). Nothing leaves the machine.
 */
import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { PLAIN } from '../../core/client/client'
import { DIRECT } from '../../core/network/profile'
import type { RunDocument } from '../../core/run/document'
import type { HealthReader } from './health'
import { Load, NO_SUPPLIES } from './load'

/** Requests per user and number of users: enough for the optimising compiler to have seen every branch. */
const USERS = 8
const LENGTH_MS = 700

// eslint-disable-next-line max-lines-per-function -- a closure: its functions share what it keeps
export async function warmUp(health: HealthReader): Promise<void> {
  const server = createServer((request, response) => {
    request.resume()
    response.setHeader('set-cookie', 'visit=1; Path=/')
    response.end('{"ok":true,"number":7}')
  })
  await new Promise<void>(listening => server.listen(0, '127.0.0.1', listening))
  // It listens on a port.
  const host = `127.0.0.1:${(server.address() as AddressInfo).port}`
  const document: RunDocument = {
    planVersion: 0,
    fleet: [],
    target: {
      id: 'self',
      name: 'self',
      environment: 'test',
      baseUrl: `http://${host}`,
      approval: { hosts: [host], mostUsers: USERS, until: '9999', contact: 'self' },
    },
    journeys: [
      {
        schema: 'vornak-journey/1',
        kind: 'http',
        id: 'warm',
        name: 'warm',
        identity: 'kept',
        opening: [],
        closing: [],
        round: [
          {
            name: 'get',
            method: 'GET',
            url: '/',
            think: { kind: 'none' },
            timeoutMs: 2000,
            capture: [{ name: 'n', from: { kind: 'json', path: '$.number' } }],
          },
          {
            name: 'post',
            method: 'POST',
            url: '/{{n}}',
            body: { kind: 'json', text: '{"n":"{{n}}"}' },
            think: { kind: 'fixed', ms: 1 },
            expect: [
              { kind: 'status', allow: '200' },
              { kind: 'body', rule: 'contains', value: 'true' },
            ],
            timeoutMs: 2000,
          },
        ],
      },
    ],
    plan: {
      schema: 'vornak-plan/3',
      name: 'warm',
      question: '',
      targetId: 'self',
      groups: [{ letter: 'A', name: 'warm', journeyId: 'warm', profile: { startDelayMs: 0, segments: [] } }],
      locations: [],
      placement: {},
      objectives: [],
      assumedUsersPerVcpu: 1,
      rehearse: false,
      keepMachinesMin: 0,
      seed: 1,
    },
  }
  await new Promise<void>((finished) => {
    const users = Array.from({ length: USERS }, (_, i) => ({
      group: 0,
      number: i + 1,
      firstSeries: 0,
      network: DIRECT,
      client: PLAIN,
      stays: [{ startMs: i * 10, stopMs: LENGTH_MS }],
    }))
    new Load(
      {
        runId: 'warm-up',
        document,
        slice: { users, arrivals: [] },
        incarnation: 0,
        worker: 0,
        leaveMs: 500,
        health,
        supplies: NO_SUPPLIES,
        onFrame: () => {
          /* thrown away */
        },
        onExemplar: () => {
          /* thrown away */
        },
        onFinished: () => finished(),
      },
      performance.now() + 5,
    ).run()
  })
  server.closeAllConnections()
  await new Promise(closed => server.close(closed))
}
