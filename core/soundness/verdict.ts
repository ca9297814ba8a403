/**
 * The run judged as evidence: which rules it broke, in which seconds, by which generators, and how much that weighs.
 */
import { NOT_STARTED, NOT_STARTED_WORDS, type NotStarted } from '../load/drive'
import type { Basis } from '../fleet/capacity-book'
import type { Ledger } from '../merge/ledger'
import type { Window } from '../objectives/windows'
import type { HealthByGenerator } from './health'
import {
  SIGNAL_LIMITS,
  SIGNAL_PHRASES,
  STOOD_STILL_MS,
  saySignal,
  sayStoodStill,
  stoodStillMs,
  worstSignal,
} from '../capacity/signals'
import { present } from '../values/present'

export type FindingWeight = 'note' | 'qualifies' | 'voids'

export interface Finding {
  code: string
  weight: FindingWeight
  sentence: string
  remedy: string
  /** Generators it is about. */
  generators?: string[]
  /** Number of run seconds it touches. */
  seconds?: number
}

export type Soundness = 'sound' | 'qualified' | 'unsound'

/** What the rules look at. */
export interface RunEvidence {
  health: HealthByGenerator
  /** Users planned and present per run second, same length; leaving users don't count. */
  planned: ArrayLike<number>
  present: ArrayLike<number>
  ledger: Ledger
  /** Largest clock uncertainty seen per generator, ms. */
  clockUncertaintyMs: ReadonlyMap<string, number>
  /** Generators that went without a last word. */
  lost: readonly string[]
  /** Generators that were to come for the peak, and never did. */
  absent?: readonly string[]
  /**
   * What the numbers of machines rest on, the least sure of all locations; none: a calibration, which is about capacity
   * itself.
   */
  capacityBasis: Basis | undefined
  rehearsed: boolean
  /** Journeys that a rehearsal cannot try, where one was made. */
  notRehearsed?: readonly string[]
  /** Groups whose passes arrive by a plan of their own. */
  arrivals?: readonly {
    group: string
    planned: number
    started: number
    notStarted: Partial<Record<NotStarted, number>>
    unknown: number
  }[]
  /** Networks whose users felt something else than the profile. */
  networksOff?: readonly {
    location: string
    name: string
    expectedConnectMs: number | undefined
    figures: { connectP50Ms: number | undefined }
  }[]
  /** Held rates that were not reached, in words. */
  notReached?: readonly string[]
  /** Passes due and begun per run second, of groups whose passes arrive by a plan of their own. */
  pace?: { due: ArrayLike<number>, begun: ArrayLike<number> }
  /** What the roll call noted of machines that took part. */
  rollCallNotes?: readonly { code: string, generator: string, sentence: string, means: string }[]
  /** Other programs measured it: who told of it. */
  claimedBy?: readonly string[]
  /** It went with fewer machines and less load than planned. */
  wentWith?: { machines: number, wanted: number, factor: number }
  /** failed ÷ ended over the judged part, 0–1. */
  failureShare: number
}

/** Seconds in a row beyond a limit before a generator counts as stressed. */
const STRESSED_S = 5
/**
 * This many more passes than were due in a second, and that share more, are a burst: some moments fall beside their
 * second on every machine.
 */
const BURST_PASSES = 3
const BURST_SHARE = 0.25
/** Users off plan: tolerated share, and for how long. */
const OFF_SHARE = 0.02
const OFF_S = 5

export function findingsOf(evidence: RunEvidence): Finding[] {
  return [
    ...stressed(evidence),
    ...stoodStill(evidence),
    ...bursts(evidence),
    ...offPlan(evidence),
    ...clocks(evidence),
    ...ledgerFindings(evidence),
    ...lostFindings(evidence),
    ...arrivalFindings(evidence),
    ...networkFindings(evidence),
    ...rollCallFindings(evidence),
    ...(evidence.notReached ?? []).map(sentence => ({
      code: 'rate-not-reached',
      weight: 'qualifies' as const,
      sentence,
      remedy: 'Allow more users, or look for what slows them down.',
    })),
    ...capacityFindings(evidence),
    ...claimedFindings(evidence),
    ...(evidence.rehearsed
      ? []
      : [
          evidence.notRehearsed?.length
            ? {
                code: 'not-rehearsed',
                weight: 'qualifies' as const,
                sentence: `${evidence.notRehearsed.join(', ')}: a command, which ran under load only and was not rehearsed.`,
                remedy: 'Run it with one user in a small plan first.',
              }
            : {
                code: 'not-rehearsed',
                weight: 'qualifies' as const,
                sentence: 'The rehearsal was skipped.',
                remedy: 'Rehearse before the next run.',
              },
        ]),
    ...(evidence.failureShare > 0.01
      ? [
          {
            code: 'failures',
            weight: 'note' as const,
            sentence: `${(evidence.failureShare * 100).toFixed(1)} % failed: percentiles of right answers alone mislead.`,
            remedy: 'Read the failures by kind beside the percentiles.',
          },
        ]
      : []),
  ]
}

/** One finding per kind, with everybody it is about. A location that is turned away measures the refusal. */
function rollCallFindings({ rollCallNotes = [], wentWith }: RunEvidence): Finding[] {
  const kinds = [...new Set(rollCallNotes.map(n => n.code))]
  const noted = kinds.map((code): Finding => {
    const notes = rollCallNotes.filter(n => n.code === code)
    const rest = notes.length > 1 ? ` (and ${notes.length - 1} more like it)` : ''
    return {
      code: `roll-call-${code}`,
      weight: code === 'blocked' ? 'qualifies' : 'note',
      sentence: `${notes[0]!.generator} ${notes[0]!.sentence}${rest}.`,
      remedy: notes[0]!.means,
      generators: notes.map(n => n.generator),
    }
  })
  return wentWith
    ? [
        ...noted,
        {
          code: 'lowered',
          weight: 'note',
          sentence: `It went with ${wentWith.machines} of ${wentWith.wanted} machines: every level was lowered to ${(wentWith.factor * 100).toFixed(0)} %.`,
          remedy: 'The answer is about that load, not the planned one.',
        },
      ]
    : noted
}

/** Nobody here saw what was measured elsewhere. */
function claimedFindings({ claimedBy }: RunEvidence): Finding[] {
  if (!claimedBy) return []
  const some = claimedBy.slice(0, 4).join(', ') + (claimedBy.length > 4 ? ` and ${claimedBy.length - 4} more` : '')
  return [
    {
      code: 'as-claimed',
      weight: 'qualifies',
      sentence: `Measured elsewhere, by ${some}: how busy they were, how exact their clocks are and what they never told is not known here.`,
      remedy: 'Hold the counts against what the target says it received.',
    },
  ]
}

function capacityFindings({ capacityBasis }: RunEvidence): Finding[] {
  switch (capacityBasis) {
    case 'assumed':
    case 'scaled':
      return [
        {
          code: 'capacity-assumed',
          weight: 'qualifies',
          sentence: 'Capacity of the generators is assumed, not calibrated.',
          remedy: 'Calibrate the journey on this machine type.',
        },
      ]
    case 'stale':
      return [
        {
          code: 'capacity-stale',
          weight: 'qualifies',
          sentence: 'Capacity of the generators was calibrated before something changed.',
          remedy: 'Calibrate the journey again.',
        },
      ]
    case 'byHand':
      return [
        {
          code: 'capacity-by-hand',
          weight: 'note',
          sentence: 'Capacity of the generators was set by hand.',
          remedy: 'Watch their signals, or calibrate.',
        },
      ]
    default:
      return []
  }
}

/** The worst weight decides. */
export function soundnessOf(findings: readonly Finding[]): Soundness {
  if (findings.some(f => f.weight === 'voids')) return 'unsound'
  return findings.some(f => f.weight === 'qualifies') ? 'qualified' : 'sound'
}

function stressed({ health }: RunEvidence): Finding[] {
  const found: Finding[] = []
  const robbed: string[] = []
  let stolen = 0
  for (const [generator, seconds] of health) {
    let inARow = 0
    let touched = 0
    let worst: { ratio: number, text: string } = { ratio: 0, text: '' }
    let stolenS = 0
    seconds.forEach((h) => {
      // What neighbours take is told apart, with its own remedy.
      if (h && h.stolenShare > SIGNAL_LIMITS.stolenShare) stolenS++
      const { signal, ratio } = h ? worstSignal(h) : { signal: 'cpuShare' as const, ratio: 0 }
      inARow = ratio > 1 ? inARow + 1 : 0
      if (inARow === STRESSED_S) touched += STRESSED_S
      else if (inARow > STRESSED_S) touched++
      if (h && ratio > worst.ratio)
        worst = {
          ratio,
          text: `${SIGNAL_PHRASES[signal]} ${saySignal(signal, h[signal])}, limit ${saySignal(signal, SIGNAL_LIMITS[signal])}`,
        }
    })
    if (touched > 0)
      found.push({
        code: 'generator-stressed',
        weight: 'qualifies',
        sentence: `${generator} was stressed for ${touched} s: ${worst.text}.`,
        remedy: 'Take more or larger machines there.',
        generators: [generator],
        seconds: touched,
      })
    if (stolenS >= STRESSED_S) robbed.push(generator)
    stolen = Math.max(stolen, stolenS)
  }
  if (robbed.length > 0)
    found.push({
      code: 'cpu-stolen',
      weight: 'qualifies',
      sentence: `Neighbours took more than ${saySignal('stolenShare', SIGNAL_LIMITS.stolenShare)} of the CPU of ${robbed.join(', ')} for up to ${stolen} s: what was measured there then is delayed.`,
      remedy: 'Repeat it when they are quieter, or on another type of machine.',
      generators: robbed,
      seconds: stolen,
    })
  return found
}

/**
 * Generators that did nothing for a second or more, however few seconds it was: what was due meanwhile was done late,
 * all at once.
 */
function stoodStill({ health }: RunEvidence): Finding[] {
  return [...health].flatMap(([generator, seconds]): Finding[] => {
    const worst = seconds.reduce<{ ms: number, second: number }>(
      (most, h, second) => (h && stoodStillMs(h) > most.ms ? { ms: stoodStillMs(h), second } : most),
      { ms: 0, second: 0 },
    )
    if (worst.ms < STOOD_STILL_MS) return []
    return [
      {
        code: 'stood-still',
        weight: 'qualifies',
        sentence: sayStoodStill(generator, worst.ms, worst.second),
        remedy: 'Look at what else its machine did; answers it read late are counted apart, as its own delay.',
        generators: [generator],
        seconds: Math.ceil(worst.ms / 1000),
      },
    ]
  })
}

/** @returns names of those that stood still in a window for a while, long or short */
export function stoodStillIn(health: HealthByGenerator, { fromS, toS }: Window): string[] {
  return [...health].flatMap(([generator, seconds]) =>
    seconds.some((h, second) => {
      const ms = h ? stoodStillMs(h) : 0
      return ms >= STOOD_STILL_MS && second >= fromS && second - ms / 1000 < toS
    })
      ? [generator]
      : [],
  )
}

/** Seconds in which far more passes began than were due there. */
function bursts({ pace }: RunEvidence): Finding[] {
  if (!pace) return []
  const over = Array.from({ length: pace.begun.length }, (_, s) => s).filter(
    s => pace.begun[s]! - (pace.due[s] ?? 0) > Math.max(BURST_PASSES, BURST_SHARE * (pace.due[s] ?? 0)),
  )
  if (over.length === 0) return []
  const worst = over.reduce((a, b) =>
    pace.begun[b]! - (pace.due[b] ?? 0) > pace.begun[a]! - (pace.due[a] ?? 0) ? b : a,
  )
  return [
    {
      code: 'burst',
      weight: 'qualifies',
      sentence: `${pace.begun[worst]} passes began in second ${worst}, where ${pace.due[worst] ?? 0} were due${over.length > 1 ? `; in ${over.length - 1} more it was alike` : ''}.`,
      remedy: 'They were due earlier, and begun late: see the generators before that second.',
      seconds: over.length,
    },
  ]
}

/** Users who were too few or too many, for some seconds in a row. */
export function offPlan({ planned, present }: Pick<RunEvidence, 'planned' | 'present'>): Finding[] {
  let inARow = 0
  let touched = 0
  let most = 0
  for (let s = 0; s < Math.min(planned.length, present.length); s++) {
    const off = planned[s]! - present[s]!
    inARow = Math.abs(off) > 1 && Math.abs(off) > OFF_SHARE * planned[s]! ? inARow + 1 : 0
    if (inARow === OFF_S) touched += OFF_S
    else if (inARow > OFF_S) touched++
    if (inARow > 0) most = Math.max(most, Math.abs(off))
  }
  return touched === 0
    ? []
    : [
        {
          code: 'users-off',
          weight: 'qualifies',
          sentence: `Users were off plan for ${touched} s, by ${most} at most.`,
          remedy: 'See the generators at that time.',
          seconds: touched,
        },
      ]
}

function clocks({ clockUncertaintyMs }: RunEvidence): Finding[] {
  const found: Finding[] = []
  for (const [generator, ms] of clockUncertaintyMs) {
    if (ms > 100)
      found.push({
        code: 'clock',
        weight: ms > 300 ? 'qualifies' : 'note',
        sentence: `The clock of ${generator} is known to ± ${Math.round(ms)} ms only.`,
        remedy: 'Its seconds may lie beside those of the others.',
        generators: [generator],
      })
  }
  return found
}

function ledgerFindings({ ledger }: RunEvidence): Finding[] {
  const found: Finding[] = ledger.accounts
    .filter(a => a.contradictions.length > 0)
    .map(a => ({
      code: 'ledger-contradiction',
      weight: 'voids' as const,
      sentence: `The account of ${a.generator} contradicts itself: ${a.contradictions[0]}.`,
      remedy: 'Do not use this run; keep it and report it.',
      generators: [a.generator],
    }))
  const readAgain = ledger.accounts.filter(a => a.frames.unreadable !== undefined && a.contradictions.length === 0)
  if (readAgain.length > 0) {
    found.push({
      code: 'frames-unreadable',
      weight: 'note',
      sentence: `${readAgain.reduce((sum, a) => sum + (a.frames.unreadable ?? 0), 0)} frames of ${readAgain.map(a => a.generator).join(', ')} could not be read; their accounts are complete without them.`,
      remedy: 'Look for what damages data on the way, if it happens again.',
      generators: readAgain.map(a => a.generator),
    })
  }
  const unknown = ledger.missing + ledger.atMostUnknown
  const share = unknown / Math.max(1, ledger.claimed.started + ledger.atMostUnknown)
  if (unknown > 0) {
    found.push({
      code: 'ledger-loss',
      weight: share > 0.05 ? 'voids' : share > 0.001 ? 'qualifies' : 'note',
      sentence: `At most ${unknown} of ${ledger.claimed.started + ledger.atMostUnknown} exchanges are unknown (${(share * 100).toFixed(2)} %).`,
      remedy: 'See the accounts of the generators concerned.',
    })
  }
  return found
}

function lostFindings({ lost, absent = [] }: RunEvidence): Finding[] {
  return [
    ...lost.map(g => ({
      code: 'generator-lost',
      weight: 'qualifies' as const,
      sentence: `${g} was lost during the run.`,
      remedy: 'What it bore went to the others as far as they carry it; the run’s events say how much was shed.',
      generators: [g],
    })),
    ...absent.map(g => ({
      code: 'generator-absent',
      weight: 'qualifies' as const,
      sentence: `${g} was to come for the peak, and never did.`,
      remedy: 'See why in its history; where a peak must not be missed, let every machine be there all through.',
      generators: [g],
    })),
  ]
}

/** More passes than this not started: the rate is not the plan's. */
export const NOT_STARTED_SHARE = 0.01

function arrivalFindings({ arrivals = [] }: RunEvidence): Finding[] {
  return arrivals.flatMap(({ group, planned, started, notStarted, unknown }): Finding[] => {
    const off = planned - started
    if (off <= 0) return []
    const reasons = [
      ...NOT_STARTED.filter(r => (notStarted[r] ?? 0) > 0).map(r => `${notStarted[r]} ${NOT_STARTED_WORDS[r]}`),
      ...(unknown > 0 ? [`${unknown} lost with a generator`] : []),
    ]
    return [
      {
        code: 'passes-not-started',
        weight: off / planned > NOT_STARTED_SHARE ? 'qualifies' : 'note',
        sentence: `${group}: ${off} of ${planned} passes were not started (${reasons.join(', ')}).`,
        remedy:
          (notStarted.ceiling ?? 0) > 0
            ? 'Raise the ceiling of work in flight, or take more generators.'
            : 'See the accounts.',
      },
    ]
  })
}

function networkFindings({ networksOff = [] }: RunEvidence): Finding[] {
  return networksOff.map(({ location, name, expectedConnectMs, figures }) => ({
    code: 'network-off',
    weight: 'qualifies' as const,
    sentence: `${name} at ${location}: connecting took ${present(figures.connectP50Ms, 'how long connecting took').toFixed(1)} ms (median), ${present(expectedConnectMs, 'how long it should').toFixed(1)} ms would be the profile’s.`,
    remedy: 'See the generators there, and the real path to the target.',
  }))
}
