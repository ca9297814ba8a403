/** Network profiles as the library shows them: with the plans that use them, and the real paths they come on top of. */
import type { NetworksView } from '../../api/views'
import { PRESETS } from '../../core/network/presets'
import { networksUsed } from '../../core/plan/shares'
import type { Library } from './library'
import type { StoredRun } from '../store/runs'

/** @param runs the newest first */
export function networksView(library: Library, runs: readonly StoredRun[]): NetworksView {
  const plans = library.plans().map(p => ({ name: p.plan.name, used: networksUsed(p.plan) }))
  const paths: Record<string, number> = {}
  for (const { summary } of runs) for (const [code, ms] of Object.entries(summary?.pathMs ?? {})) paths[code] ??= ms
  return {
    profiles: library
      .networks()
      .map(profile => ({
        profile,
        preset: PRESETS.some(p => p.id === profile.id),
        plans: plans.filter(p => p.used.includes(profile.id)).map(p => p.name),
      })),
    paths,
  }
}
