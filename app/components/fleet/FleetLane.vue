<script setup lang="ts">
/** A lane: one location, time to the right, each machine a thin bar whose texture is its state. Now is a line; lease ends are notches ahead of it. */
import { useElementSize } from '@vueuse/core'
import type { FleetView, MachineLine } from '~~/api/views'
import { euro } from '~/format/figures'
import { duration } from '~/format/moments'
import { STATE_WORDS, TROUBLED, type GlyphName } from '../marks/glyphs'

const { lane, now, pastMs, aheadMs } = defineProps<{ lane: FleetView['locations'][number], now: number, pastMs: number, aheadMs: number }>()
const emit = defineEmits<{ open: [machine: MachineLine] }>()
const track = useTemplateRef<HTMLElement>('track')
const { width } = useElementSize(track)
const scale = computed(() => width.value / (pastMs + aheadMs))
const x = (at: number) => (at - (now - pastMs)) * scale.value
const out = computed(() => lane.machines.filter(m => m.goneAt === undefined && m.allocatedAt !== undefined))

/** A machine's past as stretches of one state each. */
function stretches(m: MachineLine) {
  const steps = [{ at: m.askedAt, state: 'asked' as string }, ...m.changes.map(c => ({ at: c.at, state: c.to as string }))]
  const end = m.goneAt ?? now
  return steps.flatMap((s, i) => {
    const from = Math.max(s.at, now - pastMs)
    const to = Math.min(steps[i + 1]?.at ?? Math.max(end, s.at), now)
    const left = x(from)
    const w = x(to) - left
    return w > 0.5 ? [{ state: s.state, left, width: w }] : []
  })
}
</script>

<template>
  <section class="lane">
    <div class="about">
      <div><LocationCode :code="lane.code" /> <b>{{ lane.region }}</b> <span class="q">{{ lane.provider }}</span></div>
      <div class="q s12">{{ out.length }} out<template v-if="lane.offer"> · {{ lane.offer.quota.most - lane.offer.quota.used }} of {{ lane.offer.quota.most }} free · boots in {{ lane.offer.bootS }} s</template><template v-else> · provider does not answer</template></div>
      <div class="q s12">{{ euro(out.reduce((s, m) => s + m.perHour, 0)) }}/h<template v-if="lane.offer"> · from {{ euro(Math.min(...lane.offer.types.map(t => t.pricePerHour))) }}/h</template></div>
    </div>
    <div class="names">
      <button v-for="m in lane.machines" :key="m.id" class="name" :class="{ brick: TROUBLED.includes(m.state), q: m.goneAt !== undefined && !TROUBLED.includes(m.state) }" @click="emit('open', m)">
        <AGlyph :name="m.state as GlyphName" :size="10" /><b>{{ m.name }}</b><span class="q">run {{ m.runId }}</span><span class="state">{{ STATE_WORDS[m.state] ?? m.state }}</span>
      </button>
      <p v-if="!lane.machines.length" class="q s12 none">nothing out, and nothing in the last {{ duration(pastMs) }}</p>
    </div>
    <div ref="track" class="track">
      <div v-for="m in lane.machines" :key="m.id" class="machine">
        <span v-for="s in stretches(m)" :key="s.state + s.left" class="stretch" :style="{ left: `${s.left}px` }"><StateBar :state="s.state" :width="s.width" /></span>
        <i v-if="m.goneAt === undefined && m.leaseEndsAt < now + aheadMs" class="lease" :style="{ left: `${x(m.leaseEndsAt)}px` }" :title="`Lease of ${m.name} ends in ${duration(m.leaseEndsAt - now)}`" />
      </div>
      <i class="now" :style="{ left: `${x(now)}px` }" />
    </div>
  </section>
</template>

<style scoped>
.lane { display: grid; grid-template-columns: 210px 250px minmax(0, 1fr); border-bottom: 1px solid var(--hair); padding: 8px 10px; gap: 0 12px; min-height: 72px; }
.name { display: flex; align-items: center; gap: 6px; height: 16px; width: 100%; font-size: 12px; cursor: pointer; white-space: nowrap; }
.name:hover b { text-decoration: underline; }
.state { margin-left: auto; }
.track { position: relative; overflow: hidden; }
.machine { position: relative; height: 16px; }
.stretch { position: absolute; top: 3px; }
.now { position: absolute; top: -8px; bottom: -8px; width: 1.5px; background: var(--ink); }
.lease { position: absolute; top: 1px; height: 14px; border-left: 2px solid var(--plan); }
.lease::before { content: ''; position: absolute; left: -5px; top: 0; border: 4px solid transparent; border-top-color: var(--plan); }
</style>
