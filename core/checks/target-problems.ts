/** Whether the target may be sent what the plan would send, and says of itself what the plan asks for. */
import { ownOf } from '../values/own'
import { requestsOf, STAGES, stepsOf, type Journey } from '../journey/journey'
import { approvalFaults } from '../journey/approval'
import { addressOf, hostOf, targetValues, type Target } from '../journey/target'
import { namesIn } from '../values/template'
import type { Plan } from '../plan/document'
import { inTheWay, type Problem } from './problem'
import type { PlanSurroundings } from './plan-surroundings'

export function targetProblems(
  plan: Plan,
  { target, journeys, now, lengthMs }: PlanSurroundings,
  peak: number,
): Problem[] {
  if (!target) return [inTheWay('unknown-target', 'The plan’s target does not exist.', 'Choose a target.')]
  const used = journeys.filter(j => plan.groups.some(g => g.journeyId === j.id))
  const fromMs = Date.parse(now)
  const load = { users: peak, hosts: hostsUsed(used, target) }
  const found = approvalFaults(target, { fromMs, toMs: fromMs + lengthMs }, load).map(({ code, sentence, remedy }) =>
    inTheWay(code, sentence, remedy, { fix: { kind: 'approve' } }))
  if (target.environment === 'production')
    found.push({
      code: 'production',
      weight: 'toKnow',
      sentence: `${target.name} is in production: it already carries load of its own.`,
      remedy: 'Agree a window with its owner.',
    })
  if (plan.targetFigures && (target.sources ?? []).every(s => s.series.length === 0))
    found.push({
      code: 'no-target-figures',
      weight: 'toKnow',
      sentence: `${target.name} says nowhere how it is: its own figures are asked for, and there are none.`,
      remedy: 'Add a source to it, with series, or do not ask.',
    })
  return found
}

/**
 * Hosts that journeys send to, `host:port`, as far as their addresses can be told beforehand: what a template puts
 * together is held to the approval at the socket.
 */
export function hostsUsed(journeys: readonly Journey[], target: Target): string[] {
  return [...new Set(journeys.flatMap(j => hostsOf(j, target)))]
}

function hostsOf(journey: Journey, target: Target): string[] {
  if (journey.kind !== 'http') return []
  const values = targetValues(target)
  return STAGES.flatMap(s => stepsOf(journey, s))
    .flatMap(requestsOf)
    .flatMap((part) => {
      const url = part.url.replace(
        /\{\{\{?&?\s*target\.([^}\s]+)\s*\}?\}\}/g,
        (whole, name: string) => ownOf(values, name) ?? whole,
      )
      if (namesIn(url).length > 0 && !/^https?:\/\/[^/{]+\//i.test(url) && /^(https?:\/\/|\{\{)/i.test(url)) return []
      try {
        return [hostOf(addressOf(target, url.replace(/\{\{.*?\}\}\}?/g, 'x')))]
      }
      catch {
        return [url]
      }
    })
}
