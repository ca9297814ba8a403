/** Puts the demo's target, journeys, feed and plans into a coordinator's library. */
import { Readable } from 'node:stream'
import ssh2 from 'ssh2'
import type { Coordinator } from '../control/coordinator'
import type { Plan } from '../core/plan/document'
import {
  BROWSER_JOURNEY,
  CAMPUS_PLAN,
  DEMO_JOURNEYS,
  DEMO_PLAN,
  DEMO_STUDENTS,
  demoSite,
  demoTarget,
  RUSH_PLAN,
  STAIRS_PLAN,
} from './scenario'

/** An approval lasts this long from now, ms. */
const APPROVED_MS = 30 * 86_400_000

const DEMO_PLANS: Record<string, Plan> = {
  'enrolment-morning': DEMO_PLAN,
  'how-far': STAIRS_PLAN,
  'timetable-rush': RUSH_PLAN,
  'campus-and-cloud': CAMPUS_PLAN,
}

/** Plans whose earlier runs the demo shows. */
export const DEMO_HISTORY = ['enrolment-morning', 'how-far'] as const

export async function fillLibrary(coordinator: Coordinator, portal: string, now: number): Promise<void> {
  const { library, imports } = coordinator
  library.saveTarget(demoTarget(portal, new Date(now + APPROVED_MS).toISOString()), {
    password: 'made-up-for-the-demo',
  })
  if (!library.feed(DEMO_STUDENTS.name)) {
    const file = await library.files.take(Readable.from([Buffer.from(DEMO_STUDENTS.csv())]), 'students.csv')
    await imports.feed(file.id, DEMO_STUDENTS.name, {})
  }
  for (const journey of [...DEMO_JOURNEYS, BROWSER_JOURNEY]) library.saveJourney(journey)
  for (const [id, plan] of Object.entries(DEMO_PLANS)) {
    if (!library.plan(id)) coordinator.plans.save(id, plan, 0)
  }
}

/** Name of the key the demo's private hosts let in. */
const HOST_KEY = 'computing centre'

/**
 * Sets the demo's private site up with a key made for it. @param ports of the stand-in's hosts @returns the stand-in's
 * settings
 */
export function fillHosts(coordinator: Coordinator, ports: readonly number[], now: number): object {
  // Not ed25519: one in 256 that ssh2 makes of it begins with a zero that it then loses, and cannot be read again.
  const key = ssh2.utils.generateKeyPairSync('ecdsa', { bits: 256, comment: 'demo' })
  coordinator.hosts.saveKey(HOST_KEY, key.private, '')
  coordinator.hosts.saveSite(demoSite(ports, HOST_KEY, new Date(now + 86_400_000).toISOString()), new Set())
  return {
    user: 'loadtest',
    publicKey: key.public,
    sftp: false,
    hosts: ports.map((port, i) => ({ name: `ovk-${'abcdef'[i]}`, port })),
  }
}
