/**
 * A run once more: what has changed since it was made, and exactly its own document, held against what may be sent and
 * taken now.
 */
import type { AgainView } from '../../api/views'
import { changesBetween } from '../../core/checks/differences'
import type { RunDocument } from '../../core/run/document'
import { ControlError, inTheWay } from '../errors'
import type { Library } from '../library/library'
import type { Plans } from '../library/plans'
import type { StoredRun } from '../store/runs'

export interface AgainTools {
  library: Library
  plans: Plans
}

/** @throws ControlError when it is no run of a plan */
export async function againView(run: StoredRun, { library, plans }: AgainTools): Promise<AgainView> {
  refuseOthers(run)
  const { document, planId } = run
  const now = library.store.plan(planId)
  const differences = now
    ? changesBetween(document.plan, now.plan, library.journeys()).map(c => `${c.what}: ${c.before} → ${c.after}`)
    : []
  for (const journey of document.journeys) {
    const latest = library.store.journey(journey.id)
    const ran = document.journeyVersions?.[journey.id]
    if (!latest) differences.push(`journey ${journey.name}: it does not exist any more`)
    else if (JSON.stringify(latest.journey) !== JSON.stringify(journey))
      differences.push(`journey ${latest.journey.name}: version ${ran ?? '?'} → ${latest.version}`)
  }
  for (const profile of document.networks ?? []) {
    const latest = library.networks().find(n => n.id === profile.id)
    if (JSON.stringify(latest) !== JSON.stringify(profile))
      differences.push(`network ${profile.name}: ${latest ? 'its figures have changed' : 'it does not exist any more'}`)
  }
  for (const client of document.clients ?? []) {
    const latest = library.clients().find(c => c.id === client.id)
    if (JSON.stringify(latest) !== JSON.stringify(client))
      differences.push(`client ${client.name}: ${latest ? 'its headers have changed' : 'it does not exist any more'}`)
  }
  const target = library.target(document.target.id)
  if (target && target.baseUrl !== document.target.baseUrl)
    differences.push(`target ${target.name}: ${document.target.baseUrl} → ${target.baseUrl}`)
  for (const [id, { rows }] of Object.entries(document.feeds ?? {})) {
    const latest = library.feed(id)
    if (latest?.rows !== rows)
      differences.push(`feed ${id}: ${rows} rows → ${latest ? `${latest.rows} rows` : 'it does not exist any more'}`)
  }
  const exactly = await plans.again(document).then(
    () => [] as string[],
    (error: unknown) => {
      if (!(error instanceof ControlError)) throw error
      return [error.sentence]
    },
  )
  return {
    planVersionThen: document.planVersion,
    differences,
    exactlyInTheWay: exactly,
    ...(now ? { planVersionNow: now.version } : {}),
  }
}

/** Exactly its own document, with the approval its target has now. @throws ControlError when something is in the way */
export async function documentAgain(run: StoredRun, { plans }: AgainTools): Promise<RunDocument> {
  refuseOthers(run)
  return plans.again(run.document)
}

function refuseOthers({ id, document }: StoredRun): void {
  if (document.calibration)
    throw inTheWay([`Run ${id} is a calibration.`, 'Calibrate again on the Fleet screen, Capacity.'])
  if (document.claimed)
    throw inTheWay([`Run ${id} was measured elsewhere.`, 'Measure it there again.'])
}
