/** The run a calibration is made of: the same document as any run's, with levels that are chosen as it goes. */
import type { CalibrationTask } from '../../core/capacity/calibration'
import { rulesFor, type LevelPace } from '../../core/capacity/next-step'
import { attachedOf } from '../../core/fleet/place'
import type { Journey } from '../../core/journey/journey'
import type { Target } from '../../core/journey/target'
import { DIRECT, type NetworkProfile } from '../../core/network/profile'
import { extrasOf, type MachineType, type RegionOffer } from '../../core/offers/machine-type'
import { USUAL_EXEMPLARS, type Group, type Location, type Plan } from '../../core/plan/document'
import type { RunDocument } from '../../core/run/document'
import { expectedPass } from '../../core/plan/expected'

/** A calibration is over by then, whatever it has found, ms. */
const MOST_MS = 20 * 60_000
/** About how many requests/s per vCPU the first level makes: no machine sweats at it. Common practice, no source. */
const FIRST_RATE_PER_VCPU = 20

export interface CalibrationAbout {
  batch: number
  item: number
  provider: string
  offer: RegionOffer
  type: MachineType
  machines: number
  /** Code of the location it stands at. */
  code: string
  target: Target
  sink: boolean
  mostStolenShare?: number | undefined
  /** Most users on one generator. */
  most: number
  seed: number
  pace?: LevelPace | undefined
}

/** @param network undefined: none added */
export function calibrationDocument(
  journey: Journey,
  network: NetworkProfile | undefined,
  journeyVersion: number,
  about: CalibrationAbout,
): RunDocument {
  const pass = expectedPass(journey, {})
  const rules = rulesFor(
    Math.ceil((FIRST_RATE_PER_VCPU * about.type.vcpu * pass.ms) / 1000 / Math.max(1, pass.requests)),
    about.most,
    pass.ms,
    about.pace,
  )
  const task: CalibrationTask = { ...commonOf(about), kind: 'steps', network: network?.id ?? DIRECT, rules }
  const group: Group = {
    letter: 'A',
    name: journey.name,
    journeyId: journey.id,
    profile: held(),
    drive: { kind: 'requests', fewestUsers: 0, mostUsers: about.most * about.machines },
  }
  return document(
    about,
    task,
    `How much does one ${about.type.name} carry of “${journey.name}”?`,
    [group],
    [journey],
    network ? [network] : [],
    network ? { A: { [about.code]: { [network.id]: 10_000 } } } : {},
    { [journey.id]: journeyVersion },
  )
}

/** @param plan whose groups at `code` are played @param users of each group on one generator */
export function verifyDocument(
  plan: Plan,
  users: readonly number[],
  journeys: readonly Journey[],
  networks: readonly NetworkProfile[],
  versions: Record<string, number>,
  about: CalibrationAbout,
): RunDocument {
  const here = plan.groups.flatMap((g, i) => (users[i]! > 0 ? [{ group: g, users: users[i]! }] : []))
  const longest = Math.max(
    ...here.map(
      h =>
        expectedPass(
          journeys.find(j => j.id === h.group.journeyId),
          h.group,
        ).ms,
    ),
  )
  const total = here.reduce((sum, h) => sum + h.users, 0)
  const task: CalibrationTask = {
    ...commonOf(about),
    kind: 'verify',
    network: 'mix',
    rules: rulesFor(total, total, longest, about.pace),
    verify: here.map(h => h.users),
  }
  const groups = here.map(({ group: { passes: _, ...group }, users: n }): Group => ({
    ...group,
    profile: held(),
    drive: { kind: 'requests', fewestUsers: 0, mostUsers: n * about.machines },
  }))
  const used = journeys.filter(j => groups.some(g => g.journeyId === j.id))
  return document(
    about,
    task,
    `Does one ${about.type.name} carry ${total} users in the mix of ${plan.name} at ${about.code}?`,
    groups,
    used,
    networks,
    Object.fromEntries(
      groups.flatMap(g =>
        plan.networks?.[g.letter]?.[about.code]
          ? [[g.letter, { [about.code]: plan.networks[g.letter]![about.code]! }]]
          : [],
      ),
    ),
    versions,
  )
}

function commonOf({ batch, item, provider, offer, type, sink, mostStolenShare }: CalibrationAbout) {
  return {
    batch,
    item,
    provider,
    region: offer.region,
    machineType: type.name,
    sink,
    ...(mostStolenShare === undefined ? {} : { mostStolenShare }),
  }
}

function held(): Group['profile'] {
  return {
    startDelayMs: 0,
    segments: [
      { to: 1, overMs: 0 },
      { to: 1, overMs: MOST_MS },
    ],
  }
}

function document(
  about: CalibrationAbout,
  calibration: CalibrationTask,
  question: string,
  groups: Group[],
  journeys: Journey[],
  networks: readonly NetworkProfile[],
  mixes: NonNullable<Plan['networks']>,
  journeyVersions: Record<string, number>,
): RunDocument {
  const { code, provider, offer, type, machines, target, seed } = about
  const location: Location = { code, provider, region: offer.region, machineType: type.name, machines }
  const attached = attachedOf(location, offer)
  return {
    plan: {
      schema: 'vornak-plan/3',
      name: `Calibration: ${journeys.map(j => j.name).join(', ')} on ${type.name}`.slice(0, 80),
      question,
      targetId: target.id,
      groups,
      locations: [location],
      placement: Object.fromEntries(groups.map(g => [g.letter, { [code]: 10_000 }])),
      networks: mixes,
      objectives: [],
      assumedUsersPerVcpu: 1,
      rehearse: true,
      keepMachinesMin: 0,
      exemplars: { ...USUAL_EXEMPLARS, oneInPasses: 0, slowest: false },
      seed,
    },
    planVersion: 0,
    target,
    journeys,
    journeyVersions,
    networks: [...networks],
    calibration,
    fleet: [
      {
        location: code,
        type,
        machines,
        ...(attached ? { attached, extrasPerHour: extrasOf(offer.otherBills ?? [], attached) } : {}),
      },
    ],
  }
}
