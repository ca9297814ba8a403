/**
 * Profiles that ship with Vornak. Their values are round figures from memory, chosen to differ plainly; measure your
 * own users' networks where it matters.
 */
import type { NetworkProfile } from './profile'

const FROM_MEMORY = 'From memory: round figures for this kind of line, no source.'

export const PRESETS: readonly NetworkProfile[] = [
  {
    id: 'campus-wire',
    name: 'campus wire',
    latencyMs: 2,
    jitterMs: 0,
    loss: 0,
    downBps: 1e9,
    upBps: 1e9,
    source: FROM_MEMORY,
  },
  {
    id: 'city-fibre',
    name: 'city fibre',
    latencyMs: 8,
    jitterMs: 2,
    loss: 0,
    downBps: 250e6,
    upBps: 100e6,
    source: FROM_MEMORY,
  },
  {
    id: 'copper-line',
    name: 'copper line',
    latencyMs: 28,
    jitterMs: 4,
    loss: 0.001,
    downBps: 16e6,
    upBps: 1e6,
    source: FROM_MEMORY,
  },
  {
    id: 'commuter-mobile',
    name: 'commuter mobile',
    latencyMs: 60,
    jitterMs: 15,
    loss: 0.005,
    downBps: 12e6,
    upBps: 4e6,
    source: FROM_MEMORY,
  },
  {
    id: 'weak-mobile',
    name: 'weak mobile',
    latencyMs: 180,
    jitterMs: 50,
    loss: 0.02,
    downBps: 1.5e6,
    upBps: 0.4e6,
    source: FROM_MEMORY,
  },
  {
    id: 'far-satellite',
    name: 'far satellite',
    latencyMs: 600,
    jitterMs: 20,
    loss: 0.005,
    downBps: 20e6,
    upBps: 3e6,
    source: FROM_MEMORY,
  },
]
