/** Who may ask for what: roles, which include each other, and with what somebody comes. */

/** From the least to the most; each may what those before it may. */
export const ROLES = ['viewer', 'operator', 'keeper'] as const
export type Role = (typeof ROLES)[number]

export const ROLE_SAYS: Readonly<Record<Role, string>> = {
  viewer: 'sees everything, changes nothing',
  operator: 'plans and runs',
  keeper: 'fleet, keys, guard rails, approvals, people',
}

/** Whether one role includes another. */
export const includes = (held: Role, needed: Role): boolean => ROLES.indexOf(held) >= ROLES.indexOf(needed)

export const lesserOf = (a: Role, b: Role): Role => (includes(a, b) ? b : a)

/**
 * With what somebody comes. `here`: nobody can sign in yet, and it is this computer. `source` brings one
 * thing, `link` reads one, `stream` tells of one run.
 */
export const BEARERS = ['person', 'here', 'token', 'source', 'stream', 'link'] as const
export type Bearer = (typeof BEARERS)[number]

/** Whom an operation is for. `anyone`: also those who are not known. */
export interface Permission {
  role: Role | 'anyone'
  /** Left out: {@link USUAL_BEARERS}. */
  by?: readonly Bearer[]
}

const USUAL_BEARERS: readonly Bearer[] = ['person', 'here', 'token']

/** Why somebody may not: not known; known, but not as this; not enough. */
export type RoleRefusal = 'unknown' | 'bearer' | 'role'

/** @param who undefined: not known @returns undefined when they may */
export function refusalOf(
  { role, by = USUAL_BEARERS }: Permission,
  who: { bearer: Bearer, role: Role } | undefined,
): RoleRefusal | undefined {
  if (role === 'anyone') return undefined
  if (!who) return 'unknown'
  if (!by.includes(who.bearer)) return 'bearer'
  return includes(who.role, role) ? undefined : 'role'
}
