/**
 * The document of a run that other programs measured: what they told of stands where a plan's groups, places and steps
 * would. Nobody asked for its load, so nothing in it says what should have been there.
 */
import { BY_USERS } from '../load/drive'
import type { CommandJourney } from '../journey/journey'
import type { Claimed, RunDocument } from '../run/document'
import { present } from '../values/present'

export interface Sender {
  name: string
  /** Where it measured. */
  place: string
  how: 'file' | 'stream' | 'run'
}

/** What is told of a run at first. */
export interface ToldOf {
  name: string
  senders: readonly Sender[]
  steps: readonly string[]
  /** As far as it is known, s and users (0: nobody told). */
  lengthS: number
  peakUsers: number
  goesOn?: boolean
}

/** Steps that are told apart; what else comes is filed under `other`. */
const MOST_CLAIMED_STEPS = 500
/** Places in a run. */
export const MOST_CLAIMED_PLACES = 100
/** Longest run, s: a day. */
export const LONGEST_CLAIMED_S = 86_400

const GROUP = 'A'

export function claimedDocument({ name, senders, steps, lengthS, peakUsers, goesOn }: ToldOf): RunDocument {
  const places = [...new Set(senders.map(s => s.place))]
  const codes = codesOf(places)
  const id = planIdOf(name)
  const journey: CommandJourney = {
    schema: 'vornak-journey/1',
    id: 'told',
    name: 'As it was told',
    kind: 'command',
    kit: '',
    runtimes: [],
    run: [],
    steps: [...steps],
    bringBack: [],
  }
  return {
    plan: {
      schema: 'vornak-plan/3',
      name,
      question: name,
      targetId: id,
      groups: [
        {
          letter: GROUP,
          name: 'Users as told',
          journeyId: journey.id,
          drive: BY_USERS,
          // Those who are there may leave when they like: no plan says how many there should be.
          passes: 1,
          profile: profileOf(lengthS, peakUsers),
        },
      ],
      locations: places.map((place, i) => ({
        code: codes[i]!,
        provider: 'elsewhere',
        region: place,
        machineType: 'not known',
        machines: 0,
      })),
      placement: { [GROUP]: Object.fromEntries(codes.map((code, i) => [code, i === 0 ? 'rest' as const : 0])) },
      objectives: [],
      assumedUsersPerVcpu: 1,
      rehearse: false,
      keepMachinesMin: 0,
      seed: 1,
    },
    planVersion: 0,
    target: { id, name: 'not known', environment: 'test', baseUrl: '' },
    journeys: [journey],
    fleet: [],
    claimed: {
      senders: senders.map(s => ({ name: s.name, location: places.indexOf(s.place), how: s.how })),
      series: [],
      ...(goesOn ? { goesOn } : {}),
    },
  }
}

/** Holds what is there for as long as it was told. */
function profileOf(lengthS: number, users: number) {
  return {
    startDelayMs: 0,
    segments: [{ to: users, overMs: 0 }, { to: users, overMs: Math.max(1, lengthS) * 1000 }],
  }
}

/** The same run, as long and with as many users as it turned out to be. */
export function asLongAs(document: RunDocument, lengthS: number, peakUsers: number): RunDocument {
  const { plan } = document
  const groups = plan.groups.map(g => ({ ...g, profile: profileOf(lengthS, peakUsers) }))
  return { ...document, plan: { ...plan, groups } }
}

/** Runs of one name are repeats of each other: they have a trend and a baseline of their own. */
export function planIdOf(name: string): string {
  return `elsewhere-${name.toLowerCase().replace(/[^a-z0-9]+/g, '-').replace(/^-+|-+$/g, '').slice(0, 60) || 'run'}`
}

/** Three letters for each place: its own first ones, where nobody has them yet. */
function codesOf(places: readonly string[]): string[] {
  const codes: string[] = []
  for (const place of places) {
    const letters = place.toUpperCase().replace(/[^A-Z]+/g, '')
    const own = [letters.slice(0, 3), letters[0] + letters.slice(-2)].filter(c => /^[A-Z]{3}$/.test(c))
    let code = own.find(c => !codes.includes(c))
    for (let n = 0; code === undefined; n++) {
      const next = lettersOf(n, (letters[0] ?? 'P'))
      if (!codes.includes(next)) code = next
    }
    codes.push(code)
  }
  return codes
}

const LETTERS = 'ABCDEFGHIJKLMNOPQRSTUVWXYZ'
const lettersOf = (n: number, first: string) => `${first}${LETTERS[Math.floor(n / 26) % 26]!}${LETTERS[n % 26]!}`

/** Which series a step at a place is; told of both as they come up. */
export class ClaimedSeries {
  private readonly numbers = new Map<string, number>()
  private readonly steps: string[]
  private readonly series: Claimed['series']
  /** Something came up since this was last asked for. */
  private grown = false

  constructor(
    document: RunDocument,
    private readonly other: number = MOST_CLAIMED_STEPS,
  ) {
    const [journey] = document.journeys
    this.steps = journey?.kind === 'command' ? [...journey.steps] : []
    this.series = [...(document.claimed?.series ?? [])]
    for (const [number, [location, step]] of this.series.entries()) this.numbers.set(`${location} ${this.steps[step]!}`, number)
  }

  /** @returns the number of the series */
  of(location: number, step: string): number {
    const key = `${location} ${step}`
    const known = this.numbers.get(key)
    if (known !== undefined) return known
    let at = this.steps.indexOf(step)
    if (at < 0) {
      if (this.steps.length >= this.other && step !== OTHER) return this.of(location, OTHER)
      at = this.steps.push(step) - 1
    }
    const number = this.series.push([location, at]) - 1
    this.numbers.set(key, number)
    this.grown = true
    return number
  }

  /** The document with all that came up; undefined: nothing did since it was asked for. */
  grownDocument(document: RunDocument): RunDocument | undefined {
    if (!this.grown) return undefined
    this.grown = false
    return {
      ...document,
      journeys: document.journeys.map(j => (j.kind === 'command' ? { ...j, steps: [...this.steps] } : j)),
      claimed: { ...claimOf(document), series: [...this.series] },
    }
  }
}

/** Where steps beyond the number that is told apart are filed. */
const OTHER = 'other steps'

/** Of a run that is told from elsewhere. @throws Error when it is none */
export const claimOf = ({ claimed }: RunDocument): NonNullable<RunDocument['claimed']> =>
  present(claimed, 'what a run told from elsewhere claims')
