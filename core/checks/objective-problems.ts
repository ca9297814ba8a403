/** Whether objectives can be judged by what the plan does. */
import { judgeableNames } from '../journey/problems'
import type { Target } from '../journey/target'
import { holdsOf } from '../load/profile'
import type { Objective, Plan } from '../plan/document'
import { SETTLE_MS } from '../objectives/windows'
import { inTheWay, type Problem } from './problem'
import { networksUsed } from '../plan/shares'
import type { PlanSurroundings } from './plan-surroundings'

// eslint-disable-next-line max-lines-per-function -- a list, in the order in which it is told
export function objectiveProblems(plan: Plan, { journeys, target }: PlanSurroundings): Problem[] {
  const shaped = networksUsed(plan)
  const shaping: Problem[] =
    shaped.length === 0
      ? []
      : [
          {
            code: 'user-space-network',
            weight: 'toKnow',
            sentence: `Users feel ${shaped.length} ${shaped.length === 1 ? 'network' : 'networks'}; the target’s kernel does not see them.`,
            remedy:
              'No loss and fast acknowledgements there. Where that matters, shape a private host’s kernel: see Networks.',
          },
        ]
  if (plan.groups.length === 0) return []
  if (plan.objectives.length === 0)
    return [
      ...shaping,
      {
        code: 'no-objective',
        weight: 'toKnow',
        sentence: 'Nothing answers the question: the plan has no objective.',
        remedy: 'Say what must hold, for example p95 of a step at most 1.8 s.',
      },
    ]
  const found: Problem[] = shaping
  const steps = judgeableNames(journeys.filter(j => plan.groups.some(g => g.journeyId === j.id)))
  for (const o of plan.objectives) {
    const walked = journeys.filter(j =>
      plan.groups.some(g => g.journeyId === j.id && (o.group === undefined || g.letter === o.group)),
    )
    const { step } = o
    const having = step === undefined ? [] : walked.filter(j => judgeableNames([j]).has(step))
    found.push(...targetFigureProblems(o, plan, target))
    if (o.group && !plan.groups.some(g => g.letter === o.group))
      found.push(
        inTheWay(
          'objective-group',
          `An objective is about group ${o.group}, which the plan does not have.`,
          `Choose one of ${plan.groups.map(g => g.letter).join(', ')}.`,
        ),
      )
    else if (o.journeyId && !walked.some(j => j.id === o.journeyId))
      found.push(
        inTheWay(
          'objective-journey',
          `An objective is about a journey that ${o.group ? `group ${o.group} does` : 'none of the groups do'} not walk.`,
          `Choose one of ${walked.map(j => j.name).join(', ')}.`,
        ),
      )
    else if (o.step && o.journeyId && steps.has(o.step) && !having.some(j => j.id === o.journeyId))
      found.push(
        inTheWay(
          'objective-step',
          `An objective is about “${o.step}”, which ${walked.find(j => j.id === o.journeyId)?.name} does not have.`,
          'Choose a step of that journey.',
        ),
      )
    else if (o.step && !o.journeyId && having.length > 1)
      found.push(
        inTheWay(
          'objective-ambiguous',
          `“${o.step}” is a step of ${having.map(j => j.name).join(' and ')}: the objective does not say of which.`,
          `Write “of ${o.step} on ${having[0]!.name}”.`,
        ),
      )
    if (o.step && !steps.has(o.step))
      found.push(
        inTheWay(
          'objective-step',
          `An objective is about “${o.step}”, which no group does.`,
          `Choose one of ${[...steps].join(', ')}.`,
        ),
      )
    if (o.location && !plan.locations.some(l => l.code === o.location))
      found.push(
        inTheWay(
          'objective-location',
          `An objective is about ${o.location}, which is not a location of this plan.`,
          'Choose a location of the plan.',
        ),
      )
  }
  const judged = plan.groups.some(g => holdsOf(g.profile).some(h => !h.warmUp && h.toMs - h.fromMs > SETTLE_MS))
  if (!judged)
    found.push({
      code: 'nothing-settles',
      weight: 'toKnow',
      sentence: 'No hold is longer than 30 s: the objectives are judged over the whole load instead of settled holds.',
      remedy: 'Hold the top level for a minute or more.',
    })
  return found
}

/** An objective about the target's own figures needs the series, in its unit, and that it is read. */
function targetFigureProblems(
  { metric, target: measure }: Objective,
  plan: Plan,
  target: Target | undefined,
): Problem[] {
  if (metric !== 'target' || !measure) return []
  const choices = (target?.sources ?? []).flatMap(s => s.series)
  const choice = choices.find(c => c.name === measure.series)
  if (!choice)
    return [
      inTheWay(
        'objective-series',
        `An objective is about “${measure.series}”, which the target does not tell.`,
        choices.length > 0
          ? `Choose one of ${choices.map(c => c.name).join(', ')}.`
          : 'Say at the target where its own figures are read.',
      ),
    ]
  if (!plan.targetFigures)
    return [
      inTheWay(
        'objective-unread',
        `An objective is about “${measure.series}”, and the target’s own figures are not read.`,
        'Have them read beside the load, under About.',
        { fix: { kind: 'readTarget' } },
      ),
    ]
  if (!measure.ofUsers && (measure.unit ?? '') !== (choice.unit ?? ''))
    return [
      inTheWay(
        'objective-unit',
        `An objective holds “${measure.series}” against ${measure.unit ? `“${measure.unit}”` : 'a number without a unit'}; its values are ${choice.unit ? `in “${choice.unit}”` : 'without a unit'}.`,
        `Write the limit ${choice.unit ? `in ${choice.unit}` : 'without a unit'}.`,
      ),
    ]
  return []
}
