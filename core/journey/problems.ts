/**
 * What is wrong with a journey, each at the place where it is: what cannot be compiled, names nobody sets, spans that
 * go nowhere.
 */
import { ownOf } from '../values/own'
import { compileCatch, compileCheck } from './answers'
import {
  isBundle,
  requestsOf,
  STAGES,
  stepsOf,
  type CommandJourney,
  type HttpJourney,
  type Journey,
  type RequestPart,
  type Step,
} from './journey'
import { measuresOf } from './measures'
import { compileTemplate, ESCAPES } from '../values/template'
import { resolveValue, type ValueNames } from '../values/scope'
import { messageOf } from '../values/thrown'

export interface JourneyProblem {
  /** Where it is: a path into the document, as in `round/2/expect/0`. */
  at: string
  weight: 'inTheWay' | 'toKnow'
  sentence: string
  remedy: string
}

export interface JourneySurroundings {
  /** Columns of each feed by its id; a feed that is not there is unknown. */
  feeds: Readonly<Record<string, readonly string[]>>
  /** Values of the target, where one is chosen; else any name after `target.` will do. */
  target: Readonly<Record<string, string>> | undefined
  /** Content ids of files that are there; undefined where it is not known. */
  files?: ReadonlySet<string>
}

export function problemsOfJourney(journey: Journey, around: JourneySurroundings): JourneyProblem[] {
  return [
    ...feedProblems(journey, around),
    ...(journey.kind === 'http' ? httpProblems(journey, around) : commandProblems(journey)),
  ]
}

function httpProblems(journey: HttpJourney, around: JourneySurroundings): JourneyProblem[] {
  const found: JourneyProblem[] = []
  const add = (at: string, sentence: string, remedy: string) => found.push({ at, weight: 'inTheWay', sentence, remedy })
  if (stepsOf(journey, 'round').length === 0)
    add('round', 'The round has no step.', 'Add one: the round is what users repeat.')
  const names = new Map<string, string>()
  for (const { name, at } of namedPlaces(journey)) {
    if (names.has(name))
      add(at, `“${name}” is there twice.`, 'Results are filed under names: give one of the two another.')
    names.set(name, at)
  }
  /** Captures of the steps before, in the order they happen. */
  const captured: string[] = []
  const all = STAGES.flatMap(s => stepsOf(journey, s)).flatMap(s =>
    requestsOf(s).flatMap(r => (r.capture ?? []).map(c => c.name)),
  )
  const feeds = (journey.feeds ?? []).map(f => ({ as: f.as, columns: ownOf(around.feeds, f.feed) ?? [] }))
  for (const stage of STAGES) {
    journey[stage].forEach((step, s) => {
      const before = { feeds, captures: [...captured], target: around.target, runId: '1' }
      const later = { ...before, captures: all }
      if (isBundle(step) && step.requests.length === 0)
        add(`${stage}/${s}`, `The bundle ${step.name} has no request.`, 'Add one, or take the bundle out.')
      partsAt(step, `${stage}/${s}`).forEach(({ part, at, off }) => {
        if (off) return
        found.push(...partProblems(part, at, stage === 'round' ? later : before, around))
        for (const name of part.capture ?? []) captured.push(name.name)
      })
      const { think } = step
      if (think.kind === 'uniform' && think.toMs < think.fromMs)
        add(`${stage}/${s}/think`, `The pause goes from ${think.fromMs} to ${think.toMs} ms.`, 'Put the shorter first.')
    })
  }
  ;(journey.spans ?? []).forEach((span, i) => {
    const stage = STAGES.find(st => stepsOf(journey, st).some(x => x.name === span.from))
    const steps = stage ? stepsOf(journey, stage) : []
    const [from, to] = [steps.findIndex(x => x.name === span.from), steps.findIndex(x => x.name === span.to)]
    if (from < 0 || to < from)
      add(
        `spans/${i}`,
        `The span ${span.name} goes from ${span.from} to ${span.to}, which is no stretch of one stage.`,
        'Choose a first and a last step of the opening, the round or the closing, both on.',
      )
  })
  return found
}

// eslint-disable-next-line max-lines-per-function -- a list, in the order in which it is told
function partProblems(part: RequestPart, at: string, names: ValueNames, around: JourneySurroundings): JourneyProblem[] {
  const found: JourneyProblem[] = []
  const tried = (place: string, act: () => unknown, remedy: string) => {
    try {
      act()
    }
    catch (error) {
      found.push({ at: `${at}/${place}`, weight: 'inTheWay', sentence: sentence(messageOf(error)), remedy })
    }
  }
  const text = (place: string, value: string) =>
    tried(
      place,
      () => compileTemplate(value, name => resolveValue(name, names), ESCAPES.none),
      'Name a value that is set before, or take it out of the text.',
    )
  if (part.url.trim() === '')
    found.push({
      at: `${at}/url`,
      weight: 'inTheWay',
      sentence: 'The address is empty.',
      remedy: 'Give a path below the target’s base address, or a whole URL.',
    })
  text('url', part.url)
  ;(part.query ?? []).forEach(([name, value], i) => {
    text(`query/${i}`, name)
    text(`query/${i}`, value)
  })
  ;(part.headers ?? []).forEach(([name, value], i) => {
    // RFC 9110 §5.6.2.
    if (!/^[!#$%&'*+.^_`|~0-9A-Za-z-]+$/.test(name))
      found.push({
        at: `${at}/headers/${i}`,
        weight: 'inTheWay',
        sentence: `“${name}” cannot be the name of a header.`,
        remedy: 'Use letters, digits and hyphens.',
      })
    text(`headers/${i}`, value)
  })
  const { body } = part
  if (body?.kind === 'json' || body?.kind === 'raw') text('body', body.text)
  if (body?.kind === 'form') for (const [name, value] of body.fields) for (const t of [name, value]) text('body', t)
  if (body?.kind === 'multipart') {
    for (const p of body.parts) {
      if ('text' in p) text('body', p.text)
      else if (around.files && !around.files.has(p.file))
        found.push({
          at: `${at}/body`,
          weight: 'inTheWay',
          sentence: `The file ${p.fileName} is not here.`,
          remedy: 'Upload it again.',
        })
    }
  }
  ;(part.expect ?? []).forEach((e, i) =>
    tried(`expect/${i}`, () => compileCheck(e), 'Correct it, or take the expectation out.'),
  )
  ;(part.capture ?? []).forEach((c, i) => {
    if (!/^[A-Za-z_][A-Za-z0-9_-]*$/.test(c.name))
      found.push({
        at: `${at}/capture/${i}`,
        weight: 'inTheWay',
        sentence: `“${c.name}” cannot be the name of a value.`,
        remedy: 'Begin with a letter; then letters, digits, _ and -.',
      })
    tried(`capture/${i}`, () => compileCatch(c), 'Correct it, or take the capture out.')
  })
  return found
}

function feedProblems(journey: Journey, around: JourneySurroundings): JourneyProblem[] {
  const found: JourneyProblem[] = []
  ;(journey.feeds ?? []).forEach((use, i) => {
    if (!ownOf(around.feeds, use.feed))
      found.push({
        at: `feeds/${i}`,
        weight: 'inTheWay',
        sentence: `The feed ${use.feed} is not here.`,
        remedy: 'Upload it, or choose another.',
      })
    if (use.deal === 'once' && use.atEnd === 'again')
      found.push({
        at: `feeds/${i}`,
        weight: 'inTheWay',
        sentence: `${use.as}: rows that are dealt once cannot begin again.`,
        remedy: 'Let users leave, or the pass fail, when the rows run out.',
      })
    if ((journey.feeds ?? []).findIndex(f => f.as === use.as) !== i)
      found.push({
        at: `feeds/${i}`,
        weight: 'inTheWay',
        sentence: `Two feeds are called ${use.as}.`,
        remedy: 'Give one another name.',
      })
  })
  return found
}

function commandProblems(journey: CommandJourney): JourneyProblem[] {
  const found: JourneyProblem[] = []
  if (!/^[0-9a-f]{64}$/.test(journey.kit))
    found.push({
      at: 'kit',
      weight: 'inTheWay',
      sentence: 'The journey has no kit.',
      remedy: 'Upload an archive with the program in it.',
    })
  if (journey.run.length === 0 || journey.run[0]!.trim() === '')
    found.push({
      at: 'run',
      weight: 'inTheWay',
      sentence: 'Nothing is said to run.',
      remedy: 'Give the program and its arguments.',
    })
  found.push({
    at: 'kit',
    weight: 'toKnow',
    sentence: 'What the program sends cannot be held to the approved hosts.',
    remedy: 'Read it before you run it: approval is enforced for HTTP steps only.',
  })
  return found
}

/** Every name results are filed under, and where it stands. */
function namedPlaces(journey: HttpJourney): { name: string, at: string }[] {
  return [
    ...STAGES.flatMap(stage =>
      journey[stage].flatMap((step, i) => [
        { name: step.name, at: `${stage}/${i}/name` },
        ...(isBundle(step)
          ? step.requests.map((r, n) => ({ name: r.name, at: `${stage}/${i}/requests/${n}/name` }))
          : []),
      ]),
    ),
    ...(journey.spans ?? []).map((s, i) => ({ name: s.name, at: `spans/${i}` })),
  ]
}

/** Requests of a step with the path to each. */
function partsAt(step: Step, at: string): { part: RequestPart, at: string, off: boolean }[] {
  return isBundle(step)
    ? step.requests.map((part, i) => ({
        part,
        at: `${at}/requests/${i}`,
        off: (step.off ?? false) || (part.off ?? false),
      }))
    : [{ part: step, at, off: step.off ?? false }]
}

function sentence(message: string): string {
  const first = message.charAt(0).toUpperCase() + message.slice(1)
  return /[.!?]$/.test(first) ? first : `${first}.`
}

/** Steps, bundles and spans an objective may be about. */
export function judgeableNames(journeys: readonly Journey[]): Set<string> {
  return new Set(journeys.flatMap(j => measuresOf(j).map(m => m.name)))
}
