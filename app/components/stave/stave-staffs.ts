/**
 * Which staffs a run's stave has, in which order and how tall: as the plan asks, or as somebody chose. Written as text,
 * so that an address and a named set hold them: `users; objective; p95, Enrol, by location, tall`.
 */
import { MEASURE_WORDS, printStaff, readStaff, type NamedValues, type Staff } from '~~/core/result/staff'
import { isTimed } from '~~/core/objectives/sentence'
import { timedObjective } from '~~/core/objectives/judge'
import { stepKey } from '~~/core/objectives/subject'
import { measuresOf } from '~~/core/journey/measures'
import type { Objective } from '~~/core/plan/document'
import type { RunDocument } from '~~/core/run/document'
import { keysIn } from '~~/core/values/written-out'

/** Staffs that every run has, drawn from what its seconds tell of themselves. */
const HOUSE_WORDS = {
  users: 'users',
  objective: 'objective',
  objectiveByLocation: 'objective by location',
  traffic: 'sent and failed',
} as const
export type HouseStaff = keyof typeof HOUSE_WORDS

export const HEIGHTS = ['low', 'usual', 'tall'] as const
export type StaffHeight = (typeof HEIGHTS)[number]

export interface StaffEntry {
  /** Its text without its height: there are no two of one text. */
  key: string
  height: StaffHeight
  house?: HouseStaff
  own?: Staff
  /** Names of series of the target's own figures: one, split as its source splits it, or several, a line each. */
  target?: string[]
  /** It cannot be read, of this run. */
  problem?: string
}

/** A staff of the target's own figures, as people write it. */
const TARGET_WORDS = /^target\s+(\S.*)$/i

/** Of a target's own series this many are shown from the start, in its order, on one staff. */
const FIRST_TARGET_LINES = 3

/** Staffs of one stave at most: more fit on no screen, and each is asked of the server. */
export const MOST_STAFFS = 16

/** @param text as {@link printStave} writes it; what cannot be read of this run stays, with the reason */
export function readStave(text: string, named: NamedValues): StaffEntry[] {
  const entries = partsOf(text).map(part => readEntry(part, named))
  return entries.filter((e, i) => entries.findIndex(other => other.key === e.key) === i).slice(0, MOST_STAFFS)
}

export function printStave(entries: readonly StaffEntry[]): string {
  return entries.map(({ key, height }) => (height === 'usual' ? key : `${key}, ${height}`)).join('; ')
}

/** @param text of one staff, with its height or without */
export function readEntry(text: string, named: NamedValues): StaffEntry {
  const height = HEIGHTS.find(h => new RegExp(`,\\s*${h}\\s*$`, 'i').test(text)) ?? 'usual'
  const bare = height === 'usual' && !/,\s*usual\s*$/i.test(text) ? text.trim() : text.replace(/,\s*\w+\s*$/, '').trim()
  const house = keysIn(HOUSE_WORDS).find(h => HOUSE_WORDS[h] === bare.toLowerCase())
  if (house) return { key: HOUSE_WORDS[house], height, house }
  const target = TARGET_WORDS.exec(bare)?.[1]?.split(',').map(name => name.trim()).filter(name => name !== '')
  if (target && target.length > 0) return targetEntry(target, height)
  const own = readStaff(bare, named)
  return typeof own === 'string' ? { key: bare, height, problem: own } : { key: printStaff(own, named), height, own }
}

export const targetEntry = (target: string[], height: StaffHeight = 'usual'): StaffEntry => ({
  key: `target ${target.join(', ')}`,
  height,
  target,
})

export function ownEntry(own: Staff, named: NamedValues, height: StaffHeight = 'usual'): StaffEntry {
  return { key: printStaff(own, named), height, own }
}

/** Between semicolons; what stands between quotation marks is not parted. */
function partsOf(text: string): string[] {
  return Array.from(text.matchAll(/(?:"(?:[^"]|"")*"|[^;"])+/g), ([part]) => part.trim()).filter(part => part !== '')
}

/** As the plan asks: users, what it limits, and what went out. */
export function usualStave(document: RunDocument, named: NamedValues): StaffEntry[] {
  const { objectives } = document.plan
  const drawn = timedObjective(objectives)?.index
  const house = (h: HouseStaff): StaffEntry => ({ key: HOUSE_WORDS[h], height: 'usual', house: h })
  const further = objectives.flatMap((o, i) => {
    const own = i === drawn ? undefined : staffOf(o, document)
    return own ? [ownEntry(own, named, 'low')] : []
  })
  const series = targetSeries(document).slice(0, FIRST_TARGET_LINES)
  const targets = series.length > 0 ? [targetEntry(series)] : []
  return [house('users'), house('objective'), house('objectiveByLocation'), ...further, house('traffic'), ...targets]
}

/** Names of the series of the target's own that are read beside the run. */
export function targetSeries({ plan, target }: Pick<RunDocument, 'plan' | 'target'>): string[] {
  return plan.targetFigures ? (target.sources ?? []).flatMap(s => s.series.map(c => c.name)) : []
}

/** What an objective judges as a staff with its limit; undefined: no staff shows it. */
export function staffOf(objective: Objective, { journeys }: Pick<RunDocument, 'journeys'>): Staff | undefined {
  const { metric, withFailures, step, journeyId, group, location, atMost, atLeast } = objective
  const limit = atMost ?? atLeast
  if (withFailures || metric === 'target') return undefined
  const steps = keysOf(objective, { journeys })
  const only = {
    ...(steps.length > 0 ? { step: steps } : journeyId ? { journey: [journeyId] } : {}),
    ...(group ? { group: [group] } : {}),
    ...(location ? { location: [location] } : {}),
  }
  const of = { ...(Object.keys(only).length > 0 ? { only } : {}), ...(limit === undefined ? {} : { limit }) }
  // Those about a time are statistics of a staff.
  if (isTimed(metric)) return { statistics: [metric as 'p95' | 'mean'], measure: 'answered', ...of }
  if (metric === 'failures') return { statistics: ['share'], measure: 'failed', ...of }
  if (metric === 'throughput') return { statistics: ['perSecond'], measure: 'right', ...of }
  return step === undefined ? { statistics: ['present'], measure: 'users', ...of } : undefined
}

/** Keys of the steps, bundles and spans an objective is about; empty: of all requests. */
export function keysOf(
  { step, journeyId }: Pick<Objective, 'step' | 'journeyId'>,
  { journeys }: Pick<RunDocument, 'journeys'>,
): string[] {
  return step === undefined ? [] : stepsCalled(step, journeyId, journeys)
}

/** Keys of all steps, bundles and spans of that name. */
function stepsCalled(step: string, journeyId: string | undefined, journeys: RunDocument['journeys']): string[] {
  return journeys.filter(j => journeyId === undefined || j.id === journeyId)
    .filter(j => measuresOf(j).some(m => m.name === step))
    .map(j => stepKey(j.id, step))
}

/** Sets that are there without anybody having kept them. */
export const READY_SETS: readonly { name: string, staffs: string }[] = [
  { name: 'who and how much', staffs: 'users; present, users, by group; sent and failed; failed, by kind; bodies received' },
  { name: 'where time goes', staffs: 'users; p50, p95, p99; p95, first byte; p95, connect; p95, TLS; p95, inside; p95, on the way' },
  { name: 'step by step', staffs: 'users; p95, by step, tall; sent, by step; share' },
]

/** “p95 answered in”, “p50, p95, p99 answered in”, “failed per second”. */
export function titleOf({ statistics, measure }: Staff): string {
  const word = MEASURE_WORDS[measure]
  if (statistics[0] === 'perSecond') return `${word} per s`
  if (statistics[0] === 'share') return `share ${word}`
  if (statistics[0] === 'present') return word
  return `${statistics.map(s => (s === 'p999' ? 'p99.9' : s)).join(', ')} ${word}`
}
