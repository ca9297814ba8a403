/**
 * Looks through files of results before they become a run: what they hold, when, who was there, what cannot be read,
 * and what stands in several of them.
 */
import { isOwnClock } from '../../core/elsewhere/reading'
import { stemOf, type Doubles, type Scanned, type ScannedFile, type WantedFile } from '../../core/elsewhere/results'
import { MOST_FAULTS, type ClaimedSample } from '../../core/elsewhere/sample'
import { PresenceOf } from './presence'
import { readResults } from './read-results'

/** A file that is wanted, with where it lies. */
export interface ResultFile extends WantedFile {
  path: string
}

export interface ScanWish {
  files: readonly ResultFile[]
  /** Name of the step whose first sample is a moment that all files share. */
  mark?: string
}

/** What a scan finds for the import, besides what is shown. */
export interface ScannedDeep extends Scanned {
  presences: PresenceOf[]
}

const MOST_STEPS = 100

// eslint-disable-next-line max-lines-per-function -- one file after the other, with what is known of those before
export async function scan({ files, mark }: ScanWish, onRows: (rows: number) => void): Promise<ScannedDeep> {
  const scanned: ScannedFile[] = []
  const presences: PresenceOf[] = []
  const seen = new SeenRows(files.length > 1)
  let all = 0
  for (const { path, file, name, reading, place } of files) {
    const same = scanned.find(s => s.file === file)
    const found: ScannedFile = {
      file, name, rows: 0, firstMs: undefined, lastMs: undefined, steps: [], places: [], wrong: 0, withoutTime: 0,
      averages: 0, faults: [], faultCount: 0, usersBy: 'nobody', peakUsers: 0, isOwnClock: false,
      ...(same ? { sameAs: same.name } : {}),
    }
    scanned.push(found)
    const presence = new PresenceOf()
    presences.push(presence)
    if (same) continue
    const steps = new Map<string, number>()
    const places = new Set<string>()
    const moment = (fromMs: number, toMs: number) => {
      if (found.firstMs === undefined || fromMs < found.firstMs) found.firstMs = fromMs
      if (found.lastMs === undefined || toMs > found.lastMs) found.lastMs = toMs
    }
    const counted = (step: string, n: number) => {
      found.rows += n
      steps.set(step, (steps.get(step) ?? 0) + n)
      all++
      if (all % 50_000 === 0) onRows(all)
    }
    await readResults(path, reading, stemOf(name), {
      sample(sample) {
        moment(sample.beganMs, sample.beganMs + (sample.durationMs ?? 0))
        counted(sample.step, 1)
        places.add(sample.place || place)
        if (!sample.ok) found.wrong++
        if (sample.durationMs === undefined) found.withoutTime++
        if (sample.step === mark) found.markMs = Math.min(found.markMs ?? Number.POSITIVE_INFINITY, sample.beganMs)
        presence.note(sample, sample.place || place)
        seen.note(sample)
      },
      average({ step, atMs, count }) {
        moment(atMs, atMs)
        counted(step, 0)
        found.averages++
        if (count > 0) places.add(place)
      },
      interval({ tag, startS, lengthS, histogram }, startAt) {
        moment(startAt + startS * 1000, startAt + (startS + lengthS) * 1000)
        counted(tag || stemOf(name), histogram.count)
        places.add(place)
      },
      fault(line, sentence) {
        found.faultCount++
        if (found.faults.length < MOST_FAULTS) found.faults.push({ line, sentence })
      },
    })
    seen.endOfFile()
    found.steps = [...steps]
      .map(([step, count]) => ({ name: step, count }))
      .sort((a, b) => b.count - a.count)
      .slice(0, MOST_STEPS)
    found.places = [...places]
    found.usersBy = presence.by
    found.peakUsers = presence.peak()
    found.isOwnClock = found.firstMs !== undefined && isOwnClock(found.firstMs)
  }
  return { files: scanned, doubles: seen.doubles, presences }
}

/** Rows of files before, by a hash of all they say. */
export class SeenRows {
  readonly doubles: Doubles = { named: 0, unnamed: 0 }
  private readonly before = new Set<number>()
  private own: number[] = []

  /** @param isWanted one file alone has nothing to be held against */
  constructor(private readonly isWanted: boolean) {}

  /** @returns whether a file before had the same row */
  note(sample: ClaimedSample): boolean {
    if (!this.isWanted) return false
    const hash = hashOf(sample)
    if (this.before.has(hash)) {
      if (sample.user === '') this.doubles.unnamed++
      else this.doubles.named++
      return true
    }
    this.own.push(hash)
    return false
  }

  endOfFile(): void {
    for (const hash of this.own) this.before.add(hash)
    this.own = []
  }
}

/** 53 bits of two FNV-1a hashes: among ten million rows two others agree once in about a hundred cases. */
function hashOf({ step, beganMs, durationMs, ok, status, bytes, user, place }: ClaimedSample): number {
  const text = `${step}\n${beganMs}\n${durationMs ?? ''}\n${ok ? 1 : 0}${status}\n${bytes}\n${user}\n${place}`
  let a = 0x811c9dc5
  let b = 0x9747b28c
  for (let i = 0; i < text.length; i++) {
    const c = text.charCodeAt(i)
    a = Math.imul(a ^ c, 0x01000193)
    b = Math.imul(b ^ c, 0x01000197)
  }
  return (a >>> 0) * 0x200000 + ((b >>> 0) & 0x1fffff)
}
