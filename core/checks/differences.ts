/** What changed between two versions of a plan, as sentences. */
import { printPhrase } from '../load/phrase'
import { printObjective, type JourneyNames } from '../objectives/sentence'
import type { Location, Plan, Share } from '../plan/document'

export interface Change {
  what: string
  before: string
  after: string
}

/** In the order of the sheet. @param journeys their names, where they are known */
// eslint-disable-next-line max-lines-per-function -- a list, in the order in which it is told
export function changesBetween(before: Plan, after: Plan, journeys: JourneyNames = []): Change[] {
  const changes: Change[] = []
  const note = (what: string, a: unknown, b: unknown) => {
    const [x, y] = [say(a), say(b)]
    if (x !== y) changes.push({ what, before: x, after: y })
  }
  note('name', before.name, after.name)
  note('question', before.question, after.question)
  note('target', before.targetId, after.targetId)
  for (const letter of union(
    before.groups.map(g => g.letter),
    after.groups.map(g => g.letter),
  )) {
    const [a, b] = [before, after].map(p => p.groups.find(g => g.letter === letter))
    if (!a || !b) {
      changes.push({ what: `group ${letter}`, before: a ? a.name : 'not there', after: b ? b.name : 'not there' })
      continue
    }
    note(`group ${letter}: name`, a.name, b.name)
    note(`${b.name}: journey`, a.journeyId, b.journeyId)
    note(`${b.name}: level`, printPhrase(a.profile), printPhrase(b.profile))
    note(`${b.name}: drive`, a.drive ?? { kind: 'users' }, b.drive ?? { kind: 'users' })
    note(`${b.name}: passes per user`, a.passes ?? 'as the profile says', b.passes ?? 'as the profile says')
    note(`${b.name}: think times`, `× ${a.thinkScale ?? 1}`, `× ${b.thinkScale ?? 1}`)
    note(`${b.name}: clients`, mix(a.clients), mix(b.clients))
  }
  for (const code of union(
    before.locations.map(l => l.code),
    after.locations.map(l => l.code),
  )) {
    const [a, b] = [before, after].map(p => p.locations.find(l => l.code === code))
    if (!a || !b) {
      changes.push({ what: `location ${code}`, before: a ? a.region : 'not there', after: b ? b.region : 'not there' })
      continue
    }
    note(`${code}: region`, `${a.provider} ${a.region}`, `${b.provider} ${b.region}`)
    note(`${code}: machines`, sayMachines(a), sayMachines(b))
  }
  for (const group of after.groups) {
    for (const { code } of after.locations) {
      note(
        `${group.name} at ${code}`,
        share(before.placement[group.letter]?.[code]),
        share(after.placement[group.letter]?.[code]),
      )
      note(
        `${group.name} at ${code}: network`,
        mix(before.networks?.[group.letter]?.[code]),
        mix(after.networks?.[group.letter]?.[code]),
      )
    }
  }
  const said = (plan: Plan) => plan.objectives.map(o => printObjective(o, journeys))
  for (const sentence of said(before).filter(s => !said(after).includes(s)))
    changes.push({ what: 'objective', before: sentence, after: 'not there' })
  for (const sentence of said(after).filter(s => !said(before).includes(s)))
    changes.push({ what: 'objective', before: 'not there', after: sentence })
  for (const [field, words] of Object.entries({
    assumedUsersPerVcpu: 'users per vCPU assumed',
    sizing: 'spares, headroom, interruptible share, all through',
    rehearse: 'rehearsal',
    traces: 'trace context',
    mailTo: 'report mailed to',
    keepMachinesMin: 'machines kept, min',
    exemplars: 'exemplars',
    seed: 'seed',
    tags: 'tags',
    notes: 'notes',
  } satisfies Partial<Record<keyof Plan, string>>)) {
    // The words stand under the names of a plan’s fields.
    note(words, before[field as keyof Plan], after[field as keyof Plan])
  }
  return changes
}

function sayMachines({ choose, machines, machineType }: Pick<Location, 'choose' | 'machines' | 'machineType'>): string {
  return choose === 'cheapest' ? 'the cheapest' : `${machines} × ${machineType}`
}

function union(a: readonly string[], b: readonly string[]): string[] {
  return [...new Set([...a, ...b])]
}

function share(s: Share | undefined): string {
  return s === 'rest' ? 'rest' : `${(s ?? 0) / 100} %`
}

function mix(m: Record<string, number> | undefined): string {
  const parts = Object.entries(m ?? {}).filter(([, bp]) => bp > 0)
  return parts.length === 0 ? 'none added' : parts.map(([id, bp]) => `${id} ${bp / 100} %`).join(', ')
}

function say(value: unknown): string {
  if (value === undefined || value === '') return 'none'
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  return typeof value === 'object' && value !== null
    ? Object.values(value)
        .map(String)
        .join(', ')
    : String(value)
}
