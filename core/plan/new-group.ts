import type { Group, Plan } from './document'

const LETTERS = [...'ABCDEFGHIJKLMNOPQRSTUVWXYZ']

/** A group that is not in the plan yet, and where its users come from. */
export interface NewGroup {
  group: Group
  row: Plan['placement'][string]
  networks?: NonNullable<Plan['networks']>[string]
}

/**
 * The next group takes the next free letter; where there is one location, its users come from there.
 *
 * @param journeyId what its users do; empty: to be chosen
 * @returns undefined where no letter is free
 */
export function newGroup({ groups, locations }: Plan, journeyId: string): NewGroup | undefined {
  const letter = LETTERS.find(l => !groups.some(g => g.letter === l))
  return letter === undefined
    ? undefined
    : {
        group: { letter, name: `Group ${letter}`, journeyId, profile: { startDelayMs: 0, segments: [] } },
        row: locations.length === 1 ? { [locations[0]!.code]: 'rest' } : {},
      }
}

/** Puts it into the plan. */
export function addGroup(plan: Plan, { group, row, networks }: NewGroup): void {
  plan.groups.push(group)
  if (Object.keys(row).length > 0) plan.placement[group.letter] = row
  if (networks) (plan.networks ??= {})[group.letter] = networks
}
