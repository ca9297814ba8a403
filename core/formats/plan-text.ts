/** Plans as text: the published file, and what is edited beside the sheet. */
import { readDuration } from '../load/phrase'
import type { Plan } from '../plan/document'
import { PLAN_SCHEMA } from '../plan/schema'
import { PLAN_SCHEMA_NAME, upgradePlan } from '../plan/upgrade'
import { readDocument, type LineOf, type TextProblem } from './document-text'
import { printDocument } from './print-document'

export type ReadPlan = { ok: true, plan: Plan } | { ok: false, problems: TextProblem[] }

export function printPlan(plan: Plan): string {
  return printDocument(plan)
}

export function readPlanText(text: string): ReadPlan {
  const read = readDocument<Plan>(text, { what: 'The plan', schema: PLAN_SCHEMA, hint, upgrade: upgradePlan, meaning })
  return read.ok ? { ok: true, plan: read.value } : read
}

/** Units are in the names of fields; a value that brings its own is told what to write. */
function hint(path: string, value: unknown): string | undefined {
  const where = path.slice(1).replaceAll('/', ' → ')
  if (path === '/schema' && typeof value === 'string') {
    const version = /^vornak-plan\/(\d+)$/.exec(value)?.[1]
    const known = Number(PLAN_SCHEMA_NAME.split('/')[1])
    if (version !== undefined && Number(version) > known)
      return `The plan was written by a newer release (${value}); this one reads up to ${PLAN_SCHEMA_NAME}. Open it there, or start the newer release here.`
    return `The schema is ${PLAN_SCHEMA_NAME}; “${value}” is none that is known.`
  }
  if (typeof value !== 'string') return undefined
  if (/Ms$/.test(path)) {
    const ms = readDuration(value)
    return `${where} is a whole number of milliseconds without a unit${ms === undefined ? '' : `: ${value} is ${ms}`}.`
  }
  if (/^\/(placement|networks)\//.test(path)) {
    const percent = /^(\d+(?:[.,]\d+)?)\s*%$/.exec(value)?.[1]
    return `${where} is a whole number of basis points${path.startsWith('/placement') ? ', or “rest”' : ''}${percent === undefined ? ': 100 % are 10000' : `: ${value} is ${Math.round(Number(percent.replace(',', '.')) * 100)}`}.`
  }
  return undefined
}

/** Names that lead nowhere inside the plan itself. */
function meaning(plan: Plan, lineOf: LineOf): TextProblem[] {
  const problems: TextProblem[] = []
  const twice = (names: string[], list: 'groups' | 'locations', what: string) =>
    names.forEach((name, i) => {
      if (names.indexOf(name) < i)
        problems.push({ line: lineOf([list, i]), sentence: `There are two ${what} ${name}.` })
    })
  const letters = plan.groups.map(g => g.letter)
  const codes = plan.locations.map(l => l.code)
  twice(letters, 'groups', 'groups')
  twice(codes, 'locations', 'locations')
  for (const field of ['placement', 'networks'] as const) {
    for (const [letter, row] of Object.entries(plan[field] ?? {})) {
      if (!letters.includes(letter))
        problems.push({ line: lineOf([field, letter]), sentence: `${field} → ${letter}: there is no group ${letter}.` })
      for (const code of Object.keys(row))
        if (!codes.includes(code))
          problems.push({
            line: lineOf([field, letter, code]),
            sentence: `${field} → ${letter} → ${code}: there is no location ${code}. Add it, or take it out.`,
          })
    }
  }
  return problems
}
