/** What each group lacks: its journey, its share, its drive, its networks and clients. */
import { problemsOfJourney } from '../journey/problems'
import { targetValues } from '../journey/target'
import { BY_USERS, LEVEL_UNITS } from '../load/drive'
import { fastestStartRate, peakOf } from '../load/profile'
import { DIRECT } from '../network/profile'
import { expectedPass, profileInUsers } from '../plan/expected'
import type { Group, Plan } from '../plan/document'
import { inTheWay, type Problem } from './problem'
import { mixOf, resolveShares, shareAt, WHOLE_BP } from '../plan/shares'
import { groupOf } from '../plan/in-plan'
import type { PlanSurroundings } from './plan-surroundings'

// eslint-disable-next-line max-lines-per-function -- a list, in the order in which it is told
export function groupProblems(plan: Plan, letter: string, { journeys, feeds, target }: PlanSurroundings): Problem[] {
  const group = groupOf(plan, letter)
  const found: Problem[] = []
  const journey = journeys.find(j => j.id === group.journeyId)
  if (!journey)
    found.push(
      inTheWay('unknown-journey', `${group.name}: its journey does not exist.`, 'Choose a journey.', { group: letter }),
    )
  else {
    const values = target && {
      ...Object.fromEntries((target.secretNames ?? []).map(n => [n, ''])),
      ...targetValues(target),
    }
    const faults = problemsOfJourney(journey, { feeds, target: values })
    const worst = faults.filter(p => p.weight === 'inTheWay')
    if (worst.length > 0)
      found.push(
        inTheWay(
          'journey',
          `${group.name}: ${journey.name}, at ${worst[0]!.at}: ${worst[0]!.sentence}${worst.length > 1 ? ` And ${worst.length - 1} more.` : ''}`,
          worst[0]!.remedy,
          { group: letter, fix: { kind: 'openJourney', journey: journey.id } },
        ),
      )
    for (const p of faults.filter(f => f.weight === 'toKnow'))
      found.push({
        code: 'journey-note',
        weight: 'toKnow',
        sentence: `${journey.name}: ${p.sentence}`,
        remedy: p.remedy,
        group: letter,
      })
  }
  const users = peakOf(group.profile)
  const kind = (group.drive ?? BY_USERS).kind
  if (users === 0)
    return [
      ...found,
      inTheWay(
        'zero-users',
        `${group.name} has no ${LEVEL_UNITS[kind]} at any time.`,
        'Give it a level, for example “0 → 40 in 30 s, hold 1 min, → 0 in 15 s”, or remove the group.',
        { group: letter },
      ),
    ]
  const { totalBp } = resolveShares(plan, letter)
  const unknown = Object.keys(plan.placement[letter] ?? {}).filter(code => !plan.locations.some(l => l.code === code))
  for (const code of unknown)
    found.push(
      inTheWay(
        'unknown-location',
        `${group.name} is placed at ${code}, which is not a location of this plan.`,
        `Add the location ${code}, or take its share away.`,
        { group: letter, location: code },
      ),
    )
  if (totalBp !== WHOLE_BP) {
    const gap = WHOLE_BP - totalBp
    const first = plan.locations.find(l => (plan.placement[letter]?.[l.code] ?? 0) !== 0) ?? plan.locations[0]
    const sentence =
      gap > 0
        ? `${group.name}: ${percent(gap)} has no place.`
        : `${group.name}: shares add up to ${percent(totalBp)}, ${percent(-gap)} too much.`
    const homeless = Math.round((Math.abs(gap) / WHOLE_BP) * users)
    found.push(
      inTheWay('shares-total', sentence, 'Shares of a group must total 100 %.', {
        group: letter,
        ...(first && (gap > 0 || shareAt(plan, letter, first.code) + gap >= 0)
          ? {
              location: first.code,
              fix: { kind: 'giveShare', group: letter, location: first.code, bp: gap },
              price: `${homeless} ${kind === 'users' ? 'users' : LEVEL_UNITS[kind]} ${gap > 0 ? 'more' : 'fewer'} there`,
            }
          : {}),
      }),
    )
  }
  if (kind === 'users' && fastestStartRate(group.profile) === Number.POSITIVE_INFINITY) {
    found.push({
      code: 'all-at-once',
      weight: 'toKnow',
      sentence: `${group.name} start at once: ${largestJump(group)} users in one moment.`,
      remedy: 'Give the group a ramp, unless this is meant.',
      group: letter,
      fix: { kind: 'ramp', group: letter, overMs: RAMP_MS },
      price: `${RAMP_MS / 1000} s longer`,
    })
  }
  return found
}

const RAMP_MS = 30_000

function largestJump({ profile }: Group): number {
  let level = 0
  return profile.segments.reduce((most, s) => {
    const rise = s.overMs === 0 ? s.to - level : 0
    level = s.to
    return Math.max(most, rise)
  }, 0)
}

/** What a drive asks of its group. */
// eslint-disable-next-line max-lines-per-function -- a list, in the order in which it is told
export function driveProblems(plan: Plan, group: Group, { journeys }: PlanSurroundings): Problem[] {
  const drive = group.drive ?? BY_USERS
  const about = { group: group.letter }
  const journey = journeys.find(j => j.id === group.journeyId)
  const found: Problem[] = []
  if (drive.kind !== 'users' && journey?.kind === 'command')
    found.push(
      inTheWay(
        'drive-command',
        `${group.name}: a command keeps its own users and cannot be driven by ${LEVEL_UNITS[drive.kind]}.`,
        'Drive the group by users.',
        about,
      ),
    )
  if (drive.kind === 'users' && group.profile.segments.some(s => !Number.isInteger(s.to)))
    found.push(
      inTheWay(
        'users-not-whole',
        `${group.name}: users are whole, ${group.profile.segments.find(s => !Number.isInteger(s.to))?.to} is not.`,
        'Write whole levels, or drive the group by a rate.',
        about,
      ),
    )
  if (drive.kind !== 'users' && group.passes !== undefined)
    found.push(
      inTheWay(
        'passes-drive',
        `${group.name}: passes per user end users, and ${drive.kind === 'arrivals' ? 'every arrival makes one pass anyway' : 'a held rate calls them back'}.`,
        'Take the number of passes away.',
        { ...about, fix: { kind: 'dropPasses', group: group.letter } },
      ),
    )
  if (drive.kind === 'requests') {
    if (drive.fewestUsers > drive.mostUsers)
      found.push(
        inTheWay(
          'users-range',
          `${group.name}: at least ${drive.fewestUsers} and at most ${drive.mostUsers} users contradict each other.`,
          'Write the smaller number first.',
          about,
        ),
      )
    const pass = expectedPass(journey, group)
    const needed = Math.ceil((peakOf(group.profile) * pass.ms) / 1000 / Math.max(1, pass.requests))
    if (needed > drive.mostUsers)
      found.push({
        code: 'rate-ceiling',
        weight: 'costsSoundness',
        sentence: `${group.name}: ${peakOf(group.profile)} requests/s need about ${needed} users; ${drive.mostUsers} are allowed.`,
        remedy: 'Allow more users, or the rate may not be reached.',
        ...about,
      })
  }
  if (drive.kind === 'arrivals') {
    const together = peakOf(profileInUsers(group, journey))
    const machines = plan.locations.reduce((sum, l) => sum + (l.machines === 'auto' ? 1 : l.machines), 0)
    if (together > drive.mostInFlight * Math.max(1, machines))
      found.push({
        code: 'arrivals-ceiling',
        weight: 'costsSoundness',
        sentence: `${group.name}: about ${together} passes would be under way at once; ${drive.mostInFlight} are allowed on a generator.`,
        remedy: 'Raise the ceiling: what cannot be started is counted, but not sent.',
        ...about,
      })
  }
  return found
}

export function networkProblems(plan: Plan, group: Group, { networks, journeys }: PlanSurroundings): Problem[] {
  const found: Problem[] = []
  const { bp } = resolveShares(plan, group.letter)
  for (const [code, mix] of Object.entries(plan.networks?.[group.letter] ?? {})) {
    const at = plan.locations.findIndex(l => l.code === code)
    const about = { group: group.letter, location: code }
    const total = Object.values(mix).reduce((sum, n) => sum + n, 0)
    if (total > WHOLE_BP)
      found.push(
        inTheWay(
          'network-total',
          `${group.name} at ${code}: its networks add up to ${percent(total)}.`,
          'A mix is at most 100 %; users left over have nothing added.',
          about,
        ),
      )
    for (const id of Object.keys(mix)) {
      if (networks.some(n => n.id === id)) continue
      found.push(
        inTheWay(
          'unknown-network',
          `${group.name} at ${code}: there is no network profile “${id}”.`,
          `Choose one of ${networks.map(n => n.id).join(', ')}.`,
          { ...about, fix: { kind: 'clearNetwork', group: group.letter, location: code } },
        ),
      )
    }
    if (
      at >= 0 &&
      bp[at]! > 0 &&
      journeys.find(j => j.id === group.journeyId)?.kind === 'command' &&
      mixOf(plan, group.letter, code).some(p => p.network !== DIRECT)
    ) {
      found.push(
        inTheWay(
          'network-command',
          `${group.name} at ${code}: a command opens its own connections; nothing can be added to them here.`,
          'Take the network away, or shape the machine itself.',
          { ...about, fix: { kind: 'clearNetwork', group: group.letter, location: code } },
        ),
      )
    }
  }
  return found
}

export function clientProblems({ letter, name, clients = {}, journeyId }: Group, around: PlanSurroundings): Problem[] {
  const found: Problem[] = []
  const about = { group: letter }
  const total = Object.values(clients).reduce((sum, n) => sum + n, 0)
  if (total > WHOLE_BP)
    found.push(
      inTheWay(
        'client-total',
        `${name}: its clients add up to ${percent(total)}.`,
        'A mix is at most 100 %; users left over say nothing of themselves.',
        about,
      ),
    )
  for (const id of Object.keys(clients)) {
    if (around.clients.some(c => c.id === id)) continue
    found.push(
      inTheWay(
        'unknown-client',
        `${name}: there is no client “${id}”.`,
        `Choose one of ${around.clients.map(c => c.id).join(', ')}.`,
        { ...about, fix: { kind: 'clearClients', group: letter } },
      ),
    )
  }
  if (total > 0 && around.journeys.find(j => j.id === journeyId)?.kind === 'command')
    found.push(
      inTheWay(
        'client-command',
        `${name}: a command writes its own headers; no client can be added to them here.`,
        'Take the clients away, or let the command say them.',
        { ...about, fix: { kind: 'clearClients', group: letter } },
      ),
    )
  return found
}

function percent(bp: number): string {
  return `${Number((bp / 100).toFixed(2))} %`
}
