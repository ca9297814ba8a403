/** One user goes once through each journey, without pauses; each step's outcome is told. Requests carry the rehearsal's mark. */
import type { RunDocument } from '../../core/plan/document'
import type { RehearsedStep } from '../../protocol/messages'
import { approvedConnector } from '../exchange/approved-connector'
import type { Outcome, PreparedRequest } from '../exchange/exchange'
import { prepareRequest } from '../exchange/prepare-request'
import { UndiciExchange } from '../exchange/undici-exchange'

export async function rehearse(document: RunDocument, runId: string): Promise<RehearsedStep[]> {
  const connector = approvedConnector({ hosts: new Set(document.target.approval?.hosts ?? []) }, { opened() { /* not counted */ }, closed() { /* not counted */ } })
  const used = document.journeys.filter(j => document.plan.groups.some(g => g.journeyId === j.id))
  const told: RehearsedStep[] = []
  for (const journey of used) {
    let ended: (outcome: Outcome) => void = () => { /* set for each step */ }
    const exchange = new UndiciExchange(connector, outcome => ended(outcome))
    for (const step of journey.round) {
      const request: PreparedRequest = { ...prepareRequest(step, document.target, { runId, rehearsal: true }), wantsBody: true }
      const outcome = await new Promise<Outcome>((resolve) => {
        ended = resolve
        exchange.send(request)
      })
      const problem = outcome.failure ? outcome.problem
        : !step.expectStatus.includes(outcome.status) ? `answered ${outcome.status}, ${step.expectStatus.join(' or ')} expected`
            : step.expectText !== undefined && !outcome.body.includes(step.expectText) ? `the answer does not contain “${step.expectText}”`
              : undefined
      told.push({ journeyId: journey.id, step: step.name, ok: !problem, status: outcome.status, durationMs: outcome.endedAt - outcome.beganAt, ...(problem ? { problem } : {}) })
      if (problem) break
    }
    exchange.close()
  }
  return told
}
