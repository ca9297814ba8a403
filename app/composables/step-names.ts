/** Names of a window's steps as tables show them: with the journey, where several have a step of that name. */
import type { RunDocument } from '~~/core/run/document'

export function useStepNames(window: () => { steps: readonly { journeyId: string, step: string }[] }, document: () => Pick<RunDocument, 'journeys'>) {
  return ({ journeyId, step }: { journeyId: string, step: string }): string => {
    const isShared = window().steps.some(s => s.step === step && s.journeyId !== journeyId)
    return isShared ? `${step} on ${document().journeys.find(j => j.id === journeyId)?.name ?? journeyId}` : step
  }
}
