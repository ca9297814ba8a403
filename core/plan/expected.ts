/**
 * What a plan will amount to, before anything is measured: users under open drives, passes, requests. From pauses, and
 * an assumed time per answer, so every figure made here is an expectation.
 */
import { meanThinkMs, requestsOf, stepsOf, type Journey, type ThinkTime } from '../journey/journey'
import { arrivalsIn } from '../load/arrivals'
import { BY_USERS } from '../load/drive'
import { peakOf, userHoursOf, type LoadProfile } from '../load/profile'
import type { Group, Plan } from './document'

/** An answer is taken to need this long until something has been measured, ms. */
export const ASSUMED_ANSWER_MS = 100

/** One pass of a journey under a group's think-time scale. */
export interface ExpectedPass {
  /** With its pauses, ms; opening and closing where every pass has them. */
  ms: number
  requests: number
}

/** @param answerMs what an answer takes, where that is known */
export function expectedPass(
  journey: Journey | undefined,
  group: Pick<Group, 'thinkScale' | 'drive'>,
  answerMs = ASSUMED_ANSWER_MS,
): ExpectedPass {
  if (journey?.kind !== 'http') return { ms: 1000, requests: 1 }
  const scale = group.thinkScale ?? 1
  const whole = journey.identity === 'fresh' || group.drive?.kind === 'arrivals'
  const stages = whole ? (['opening', 'round', 'closing'] as const) : (['round'] as const)
  let ms = 0
  let requests = 0
  for (const step of stages.flatMap(s => stepsOf(journey, s))) {
    // A step whose time is not its own was left out above.
    ms += meanThinkMs(step.think as ThinkTime) * scale + answerMs
    requests += requestsOf(step).length
  }
  return { ms: Math.max(1, ms, group.drive?.kind === 'arrivals' ? 0 : (journey.pacingMs ?? 0)), requests }
}

/**
 * A group's profile in users whatever drives it: N = λ·W for arrivals (Little 1961), and for requests as many as the
 * rate needs.
 */
export function profileInUsers(group: Group, journey: Journey | undefined): LoadProfile {
  const drive = group.drive ?? BY_USERS
  if (drive.kind === 'users') return group.profile
  const pass = expectedPass(journey, group)
  const usersFor = (level: number) => {
    if (level === 0) return 0
    if (drive.kind === 'arrivals') return Math.ceil((level * pass.ms) / 1000)
    return Math.min(
      drive.mostUsers,
      Math.max(drive.fewestUsers, Math.ceil((level * pass.ms) / 1000 / Math.max(1, pass.requests))),
    )
  }
  return {
    startDelayMs: group.profile.startDelayMs,
    segments: group.profile.segments.map(s => ({ ...s, to: usersFor(s.to) })),
  }
}

/** The plan with every level in users: what fleets are sized by and charts are drawn from. */
export function planInUsers(plan: Plan, journeys: readonly Journey[]): Plan {
  if (plan.groups.every(g => (g.drive ?? BY_USERS).kind === 'users')) return plan
  return {
    ...plan,
    groups: plan.groups.map(g => ({
      ...g,
      profile: profileInUsers(
        g,
        journeys.find(j => j.id === g.journeyId),
      ),
    })),
  }
}

/** The same with as many users as held rates may call: what an owner's approval is held against. */
export function planAtMost(plan: Plan, journeys: readonly Journey[]): Plan {
  return planInUsers(
    {
      ...plan,
      groups: plan.groups.map(g =>
        g.drive?.kind === 'requests' ? { ...g, drive: { ...g.drive, fewestUsers: g.drive.mostUsers } } : g,
      ),
    },
    journeys,
  )
}

/** Passes and requests a group is expected to make; at most, where users leave after a number of passes. */
export function expectedWork(group: Group, journey: Journey | undefined): { passes: number, requests: number } {
  const pass = expectedPass(journey, group)
  const drive = group.drive ?? BY_USERS
  if (drive.kind === 'arrivals')
    return { passes: arrivalsIn(group.profile), requests: arrivalsIn(group.profile) * pass.requests }
  if (drive.kind === 'requests')
    return { passes: arrivalsIn(group.profile) / Math.max(1, pass.requests), requests: arrivalsIn(group.profile) }
  const byTime = (userHoursOf(group.profile) * 3_600_000) / pass.ms
  const passes = group.passes === undefined ? byTime : Math.min(byTime, group.passes * peakOf(group.profile))
  return { passes, requests: passes * pass.requests }
}
