/** Carries out what fixes a problem of a plan, on the plan itself. */
import type { Plan } from '../plan/document'
import { spreadEvenly } from '../plan/presets'
import { resolveShares } from '../plan/shares'
import { USUAL_BEFORE_S } from '../target/source'
import type { Fix } from './problem'
import { groupOf, locationOf } from '../plan/in-plan'

type FixOf<K extends Fix['kind']> = Extract<Fix, { kind: K }>

/** What each does to the plan; those that lead elsewhere change nothing. */
const CHANGES: { [K in Fix['kind']]: (plan: Plan, fix: FixOf<K>) => void } = {
  setMachines(plan, { location, machines }) {
    locationOf(plan, location).machines = machines
  },
  giveShare(plan, { group, location, bp }) {
    const row = (plan.placement[group] ??= {})
    const now = row[location]
    row[location] = (typeof now === 'number' ? now : 0) + bp
  },
  rehearse(plan) {
    plan.rehearse = true
  },
  readTarget(plan) {
    plan.targetFigures ??= { beforeS: USUAL_BEFORE_S }
  },
  ramp(plan, { group, overMs }) {
    const { segments } = groupOf(plan, group).profile
    const jump = segments.find((s, i, all) => s.overMs === 0 && s.to > (all[i - 1]?.to ?? 0))
    if (jump) jump.overMs = overMs
  },
  clearNetwork(plan, { group, location }) {
    Reflect.deleteProperty(plan.networks?.[group] ?? {}, location)
  },
  clearClients(plan, { group }) {
    Reflect.deleteProperty(groupOf(plan, group), 'clients')
  },
  dropPasses(plan, { group }) {
    Reflect.deleteProperty(groupOf(plan, group), 'passes')
  },
  removeLocation(plan, { location }) {
    removeLocation(plan, location)
  },
  spreadEvenly(plan) {
    for (const { letter } of plan.groups)
      plan.placement[letter] = spreadEvenly(plan.locations)
  },
  takeFrom(plan, { from, to }) {
    const giver = plan.locations.findIndex(l => l.code === from)
    for (const { letter } of plan.groups) {
      const has = resolveShares(plan, letter).bp[giver]!
      if (has === 0) continue
      const row = (plan.placement[letter] ??= {})
      const given = Math.floor(has / 2)
      const onlyRest = row[from] === 'rest' && Object.values(row).filter(s => s === 'rest').length === 1
      row[to] = given
      // The only one that has the rest goes on having it.
      if (!onlyRest) row[from] = has - given
    }
  },
  setSizing(plan, { kind: _, ...change }) {
    plan.sizing = { ...plan.sizing, ...change }
  },
  calibrate() {},
  approve() {},
  openJourney() {},
}

export function applyFix<K extends Fix['kind']>(plan: Plan, fix: FixOf<K>): void {
  // A fix of a kind is carried out by what stands under that kind.
  CHANGES[fix.kind as K](plan, fix)
}

/** Takes a location out, with every share and network that names it. */
export function removeLocation(plan: Plan, code: string): void {
  plan.locations = plan.locations.filter(l => l.code !== code)
  for (const row of [...Object.values(plan.placement), ...Object.values(plan.networks ?? {})])
    Reflect.deleteProperty(row, code)
}

/** Takes a group out, with its row of shares and networks. */
export function removeGroup(plan: Plan, letter: string): void {
  plan.groups = plan.groups.filter(g => g.letter !== letter)
  Reflect.deleteProperty(plan.placement, letter)
  Reflect.deleteProperty(plan.networks ?? {}, letter)
}
