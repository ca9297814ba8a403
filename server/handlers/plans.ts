import { coordinator } from '../../control/meeting-place'
import type { Handlers } from '../handler'
import { done } from './done'

type PlanOperation =
  | 'plans'
  | 'plan'
  | 'newPlan'
  | 'savePlan'
  | 'checkPlan'
  | 'readPlan'
  | 'clonePlan'
  | 'archivePlan'
  | 'planChanges'
  | 'planText'
  | 'startPlan'

const plansOf = () => coordinator().plans

export const plans: Handlers<PlanOperation> = {
  plans: ({ archived }) => plansOf().list(archived === 1),
  plan: ({ plan, version }) => plansOf().view(plan, version),
  newPlan: (_, { plan, name = '', question = '', targetId = '' }) =>
    plan ? plansOf().keep(plan) : plansOf().create(name, question, targetId),
  savePlan: ({ plan: id }, { plan, onVersion }) => plansOf().save(id, plan, onVersion),
  checkPlan: (_, { plan }) => plansOf().check(plan),
  readPlan: (_, { text }) => coordinator().imports.planText(text),
  clonePlan: ({ plan }, { version }) => plansOf().clone(plan, version),
  archivePlan: ({ plan }, { archived }) => done(plansOf().setArchived(plan, archived)),
  planChanges: ({ plan, from = 1, to = 1 }) => plansOf().changes(plan, from, to),
  planText: ({ plan, version }) => ({ content: plansOf().text(plan, version), name: `${plan}.plan.yaml` }),
  startPlan: ({ plan }) => coordinator().start(plan),
}
