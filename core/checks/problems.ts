/**
 * What stands between a plan and its run: everything that is in the way, costs soundness, or is good to know, each with
 * its remedy.
 */
import { ownOf } from '../values/own'
import { requestsOf, STAGES, stepsOf, type Journey } from '../journey/journey'
import { judgeableNames, problemsOfJourney } from '../journey/problems'
import { approvalFaults } from '../journey/approval'
import { addressOf, hostOf, targetValues, type Target } from '../journey/target'
import { namesIn } from '../values/template'
import type { Client } from '../client/client'
import { BY_USERS, LEVEL_UNITS } from '../load/drive'
import { fastestStartRate, holdsOf, peakOf } from '../load/profile'
import { DIRECT, type NetworkProfile } from '../network/profile'
import { expectedPass, planAtMost, planInUsers, profileInUsers } from '../plan/expected'
import { peakOfPlan } from '../plan/peak'
import type { Group, Objective, Plan } from '../plan/document'
import type { RegionOffer } from '../offers/machine-type'
import { SETTLE_MS } from '../objectives/windows'
import { forecastBatch } from './forecast-batch'
import { UNSURE } from '../fleet/capacity-book'
import { sizePlan, type LocationSizing } from '../fleet/sizing'
import { locationProblems } from './location-problems'
import { inTheWay, type Problem, type Weight } from './problem'
import { mixOf, networksUsed, resolveShares, WHOLE_BP } from '../plan/shares'
import { groupOf, locationOf } from '../plan/in-plan'

/** What a plan is checked against. `offers` holds a provider's regions; none: the provider did not answer. */
export interface PlanSurroundings {
  target: Target | undefined
  journeys: Journey[]
  /** Columns of each feed by its id. */
  feeds: Readonly<Record<string, readonly string[]>>
  networks: readonly NetworkProfile[]
  clients: readonly Client[]
  /** How long the load will last, ms. */
  lengthMs: number
  offers: Record<string, RegionOffer[] | undefined>
  /** ISO 8601. */
  now: string
  /** What each location takes; left out: sized here, by assumption. */
  sizing?: readonly LocationSizing[]
}

const ORDER: Record<Weight, number> = { inTheWay: 0, costsSoundness: 1, toKnow: 2 }

/** All problems, the weightiest first. A plan can start when none is in the way. */
export function problemsOf(plan: Plan, around: PlanSurroundings): Problem[] {
  const inUsers = planInUsers(plan, around.journeys)
  const sizing =
    around.sizing ??
    sizePlan(inUsers, {
      journeys: around.journeys,
      offers: around.offers,
      capacities: [],
      stale: [],
      billedS: around.lengthMs / 1000,
    })
  return [
    ...(plan.groups.length === 0
      ? [
          inTheWay(
            'no-group',
            'The plan has no user group: nobody would come.',
            'Add a group and give it a level over time.',
          ),
        ]
      : []),
    ...(plan.locations.length === 0
      ? [inTheWay('no-location', 'The plan has no location: there is nowhere to come from.', 'Add a location.')]
      : []),
    ...targetProblems(plan, around, peakOfPlan(planAtMost(plan, around.journeys))),
    ...plan.groups.flatMap(g => groupProblems(plan, g.letter, around)),
    ...plan.groups.flatMap(g => driveProblems(plan, g, around)),
    ...plan.groups.flatMap(g => networkProblems(plan, g, around)),
    ...plan.groups.flatMap(g => clientProblems(g, around)),
    ...plan.locations.flatMap(l =>
      locationProblems(
        inUsers,
        l.code,
        around.offers,
        sizing.find(s => s.code === l.code),
      ),
    ),
    ...objectiveProblems(plan, around),
    ...(plan.rehearse
      ? []
      : [
          {
            code: 'no-rehearsal',
            weight: 'costsSoundness' as const,
            sentence: 'The rehearsal is switched off.',
            remedy: 'The run can be qualified at best.',
            fix: { kind: 'rehearse' as const },
            price: 'about 20 s',
          },
        ]),
    ...capacityProblems(plan, around, sizing),
    ...peakProblems(sizing),
  ].sort((a, b) => ORDER[a.weight] - ORDER[b.weight])
}

/** What the numbers of machines rest on, where nobody has measured it. */
function capacityProblems(plan: Plan, { offers }: PlanSurroundings, sizing: readonly LocationSizing[]): Problem[] {
  // A plan that cannot be sized is told the same: nothing is known.
  const unsure = sizing.filter(s => s.users > 0 && UNSURE.includes(s.basis))
  const byHand = sizing.filter(s => s.users > 0 && s.basis === 'byHand').map(s => s.code)
  const others = sizing.filter(s => s.users > 0 && s.basis === 'otherNetwork').map(s => s.code)
  const found: Problem[] = []
  if (unsure.length > 0 || sizing.length === 0) {
    const codes = unsure.map(s => s.code).join(', ')
    const stale = unsure.some(s => s.basis === 'stale')
    const sentence = stale
      ? `${codes}: what was calibrated has changed since.`
      : unsure.every(s => s.basis === 'assumed')
        ? `Nothing is calibrated${unsure.length === sizing.filter(s => s.users > 0).length ? '' : ` for ${codes}`}: ${plan.assumedUsersPerVcpu} users per vCPU is assumed.`
        : `${codes}: capacity is assumed from another machine type.`
    found.push({
      code: 'capacity-assumed',
      weight: 'costsSoundness',
      sentence,
      remedy: 'The run can be qualified at best.',
      ...calibration(plan, unsure, offers, stale),
    })
  }
  if (others.length > 0)
    found.push({
      code: 'capacity-other-network',
      weight: 'toKnow',
      sentence: `${others.join(', ')}: calibrated with another network than its users have.`,
      remedy: 'Shaping takes some CPU: calibrate with theirs to be exact.',
    })
  if (byHand.length > 0)
    found.push({
      code: 'capacity-by-hand',
      weight: 'toKnow',
      sentence: `${byHand.join(', ')}: capacity was set by hand.`,
      remedy: 'Nobody has measured it here.',
    })
  return found
}

/** Machines that come while the run loads may not come. */
function peakProblems(sizing: readonly LocationSizing[]): Problem[] {
  const late = sizing.filter(s => s.machines.some(m => m.shift && m.shift.leadMs > 0))
  if (late.length === 0) return []
  const count = late.reduce((sum, s) => sum + s.machines.reduce((n, m) => n + (m.shift ? m.count : 0), 0), 0)
  const more = sizing.flatMap(s => s.choices).reduce((sum, c) => sum + (c.change?.allThrough ? c.cost : 0), 0)
  return [
    {
      code: 'joins-late',
      weight: 'toKnow',
      sentence: `${late.map(s => s.code).join(', ')}: ${count} ${count === 1 ? 'machine is' : 'machines are'} ordered while the run loads, for its peak only.`,
      remedy: 'Cheaper; should one not come, its users go to others as far as those have room.',
      fix: { kind: 'setSizing', allThrough: true },
      price: `+€${more.toFixed(more < 0.1 ? 3 : 2)}`,
    },
  ]
}

/**
 * The batch that would measure what is assumed: the journeys of the first such provider, on the types its locations
 * take.
 */
function calibration(
  plan: Plan,
  unsure: readonly LocationSizing[],
  offers: PlanSurroundings['offers'],
  again: boolean,
): Partial<Problem> {
  const at = unsure.map(s => locationOf(plan, s.code))
  const [first] = at
  if (!first) return {}
  const here = at.filter(l => l.provider === first.provider)
  const named = new Set(
    here.flatMap(l =>
      l.choose === 'cheapest' ? (unsure.find(s => s.code === l.code)?.machines ?? []).map(m => m.type.name) : [l.machineType],
    ),
  )
  const types = (ownOf(offers, first.provider) ?? [])
    .flatMap(o => o.types)
    .filter((t, i, all) => named.has(t.name) && all.findIndex(o => o.name === t.name) === i)
  const journeys = [
    ...new Set(plan.groups.filter(g => here.some(l => resolveAt(plan, g.letter, l.code) > 0)).map(g => g.journeyId)),
  ]
  if (types.length === 0 || journeys.length === 0) return {}
  const { minutes, cost } = forecastBatch(types, journeys.length)
  return {
    fix: { kind: 'calibrate', journeys, provider: first.provider, types: types.map(t => t.name), networks: [DIRECT] },
    price: `${again ? 'again, ' : ''}about ${minutes} min · €${cost.toFixed(2)}`,
  }
}

function targetProblems(plan: Plan, { target, journeys, now, lengthMs }: PlanSurroundings, peak: number): Problem[] {
  if (!target) return [inTheWay('unknown-target', 'The plan’s target does not exist.', 'Choose a target.')]
  const used = journeys.filter(j => plan.groups.some(g => g.journeyId === j.id))
  const fromMs = Date.parse(now)
  const load = { users: peak, hosts: hostsUsed(used, target) }
  const found = approvalFaults(target, { fromMs, toMs: fromMs + lengthMs }, load).map(({ code, sentence, remedy }) =>
    inTheWay(code, sentence, remedy, { fix: { kind: 'approve' } }))
  if (target.environment === 'production')
    found.push({
      code: 'production',
      weight: 'toKnow',
      sentence: `${target.name} is in production: it already carries load of its own.`,
      remedy: 'Agree a window with its owner.',
    })
  if (plan.targetFigures && (target.sources ?? []).every(s => s.series.length === 0))
    found.push({
      code: 'no-target-figures',
      weight: 'toKnow',
      sentence: `${target.name} says nowhere how it is: its own figures are asked for, and there are none.`,
      remedy: 'Add a source to it, with series, or do not ask.',
    })
  return found
}

/** Hosts a journey's addresses name outright; what a template puts together is held to the approval at the socket. */
/** Hosts that journeys send to, `host:port`, as far as their addresses can be told beforehand. */
export function hostsUsed(journeys: readonly Journey[], target: Target): string[] {
  return [...new Set(journeys.flatMap(j => hostsOf(j, target)))]
}

function hostsOf(journey: Journey, target: Target): string[] {
  if (journey.kind !== 'http') return []
  const values = targetValues(target)
  return STAGES.flatMap(s => stepsOf(journey, s))
    .flatMap(requestsOf)
    .flatMap((part) => {
      const url = part.url.replace(
        /\{\{\{?&?\s*target\.([^}\s]+)\s*\}?\}\}/g,
        (whole, name: string) => ownOf(values, name) ?? whole,
      )
      if (namesIn(url).length > 0 && !/^https?:\/\/[^/{]+\//i.test(url) && /^(https?:\/\/|\{\{)/i.test(url)) return []
      try {
        return [hostOf(addressOf(target, url.replace(/\{\{.*?\}\}\}?/g, 'x')))]
      }
      catch {
        return [url]
      }
    })
}

// eslint-disable-next-line max-lines-per-function -- a list, in the order in which it is told
function groupProblems(plan: Plan, letter: string, { journeys, feeds, target }: PlanSurroundings): Problem[] {
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
        ...(first && (gap > 0 || resolveAt(plan, letter, first.code) + gap >= 0)
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
function driveProblems(plan: Plan, group: Group, { journeys }: PlanSurroundings): Problem[] {
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

function networkProblems(plan: Plan, group: Group, { networks, journeys }: PlanSurroundings): Problem[] {
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

function clientProblems({ letter, name, clients = {}, journeyId }: Group, around: PlanSurroundings): Problem[] {
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

// eslint-disable-next-line max-lines-per-function -- a list, in the order in which it is told
function objectiveProblems(plan: Plan, { journeys, target }: PlanSurroundings): Problem[] {
  const shaped = networksUsed(plan)
  const shaping: Problem[] =
    shaped.length === 0
      ? []
      : [
          {
            code: 'user-space-network',
            weight: 'toKnow',
            sentence: `Users feel ${shaped.length} ${shaped.length === 1 ? 'network' : 'networks'}; the target’s kernel does not see them.`,
            remedy:
              'No loss and fast acknowledgements there. Where that matters, shape a private host’s kernel: see Networks.',
          },
        ]
  if (plan.groups.length === 0) return []
  if (plan.objectives.length === 0)
    return [
      ...shaping,
      {
        code: 'no-objective',
        weight: 'toKnow',
        sentence: 'Nothing answers the question: the plan has no objective.',
        remedy: 'Say what must hold, for example p95 of a step at most 1.8 s.',
      },
    ]
  const found: Problem[] = shaping
  const steps = judgeableNames(journeys.filter(j => plan.groups.some(g => g.journeyId === j.id)))
  for (const o of plan.objectives) {
    const walked = journeys.filter(j =>
      plan.groups.some(g => g.journeyId === j.id && (o.group === undefined || g.letter === o.group)),
    )
    const { step } = o
    const having = step === undefined ? [] : walked.filter(j => judgeableNames([j]).has(step))
    found.push(...targetFigureProblems(o, plan, target))
    if (o.group && !plan.groups.some(g => g.letter === o.group))
      found.push(
        inTheWay(
          'objective-group',
          `An objective is about group ${o.group}, which the plan does not have.`,
          `Choose one of ${plan.groups.map(g => g.letter).join(', ')}.`,
        ),
      )
    else if (o.journeyId && !walked.some(j => j.id === o.journeyId))
      found.push(
        inTheWay(
          'objective-journey',
          `An objective is about a journey that ${o.group ? `group ${o.group} does` : 'none of the groups do'} not walk.`,
          `Choose one of ${walked.map(j => j.name).join(', ')}.`,
        ),
      )
    else if (o.step && o.journeyId && steps.has(o.step) && !having.some(j => j.id === o.journeyId))
      found.push(
        inTheWay(
          'objective-step',
          `An objective is about “${o.step}”, which ${walked.find(j => j.id === o.journeyId)?.name} does not have.`,
          'Choose a step of that journey.',
        ),
      )
    else if (o.step && !o.journeyId && having.length > 1)
      found.push(
        inTheWay(
          'objective-ambiguous',
          `“${o.step}” is a step of ${having.map(j => j.name).join(' and ')}: the objective does not say of which.`,
          `Write “of ${o.step} on ${having[0]!.name}”.`,
        ),
      )
    if (o.step && !steps.has(o.step))
      found.push(
        inTheWay(
          'objective-step',
          `An objective is about “${o.step}”, which no group does.`,
          `Choose one of ${[...steps].join(', ')}.`,
        ),
      )
    if (o.location && !plan.locations.some(l => l.code === o.location))
      found.push(
        inTheWay(
          'objective-location',
          `An objective is about ${o.location}, which is not a location of this plan.`,
          'Choose a location of the plan.',
        ),
      )
  }
  const judged = plan.groups.some(g => holdsOf(g.profile).some(h => !h.warmUp && h.toMs - h.fromMs > SETTLE_MS))
  if (!judged)
    found.push({
      code: 'nothing-settles',
      weight: 'toKnow',
      sentence: 'No hold is longer than 30 s: the objectives are judged over the whole load instead of settled holds.',
      remedy: 'Hold the top level for a minute or more.',
    })
  return found
}

function resolveAt(plan: Plan, letter: string, code: string): number {
  const index = plan.locations.findIndex(l => l.code === code)
  return resolveShares(plan, letter).bp[index] ?? 0
}

function percent(bp: number): string {
  return `${Number((bp / 100).toFixed(2))} %`
}

/** An objective about the target's own figures needs the series, in its unit, and that it is read. */
function targetFigureProblems(
  { metric, target: measure }: Objective,
  plan: Plan,
  target: Target | undefined,
): Problem[] {
  if (metric !== 'target' || !measure) return []
  const choices = (target?.sources ?? []).flatMap(s => s.series)
  const choice = choices.find(c => c.name === measure.series)
  if (!choice)
    return [
      inTheWay(
        'objective-series',
        `An objective is about “${measure.series}”, which the target does not tell.`,
        choices.length > 0
          ? `Choose one of ${choices.map(c => c.name).join(', ')}.`
          : 'Say at the target where its own figures are read.',
      ),
    ]
  if (!plan.targetFigures)
    return [
      inTheWay(
        'objective-unread',
        `An objective is about “${measure.series}”, and the target’s own figures are not read.`,
        'Have them read beside the load, under About.',
        { fix: { kind: 'readTarget' } },
      ),
    ]
  if (!measure.ofUsers && (measure.unit ?? '') !== (choice.unit ?? ''))
    return [
      inTheWay(
        'objective-unit',
        `An objective holds “${measure.series}” against ${measure.unit ? `“${measure.unit}”` : 'a number without a unit'}; its values are ${choice.unit ? `in “${choice.unit}”` : 'without a unit'}.`,
        `Write the limit ${choice.unit ? `in ${choice.unit}` : 'without a unit'}.`,
      ),
    ]
  return []
}
