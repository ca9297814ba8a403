<script setup lang="ts">
/**
 * A lane: one location, time to the right, each machine a thin bar whose texture is its state. Now is a line; lease
 * ends are notches ahead of it.
 */
import { useElementSize } from '@vueuse/core'
import type { FleetView, MachineLine } from '~~/api/views'
import { euro } from '~~/core/values/said-figures'
import { countStates, stretchesOf, WAY_WORDS } from '~/format/fleet'
import { duration } from '~/format/moments'
import type { GlyphName } from '../marks/glyphs'
import { MACHINE_WORDS, TROUBLED } from '~~/core/run/machine-life'

const { lane, now, pastMs, aheadMs, way } = defineProps<{
  lane: FleetView['locations'][number]
  now: number
  pastMs: number
  aheadMs: number
  way: FleetView['ways'][number] | undefined
}>()
const emit = defineEmits<{ open: [machine: MachineLine] }>()
const track = useTemplateRef<HTMLElement>('track')
const { width } = useElementSize(track)
const scale = computed(() => width.value / (pastMs + aheadMs))
const x = (at: number) => (at - (now - pastMs)) * scale.value
const out = computed(() => lane.machines.filter(m => m.goneAt === undefined && m.allocatedAt !== undefined))
/** More than this are drawn as one, with those that need somebody by name. */
const MOST_NAMED = 14
const unfolded = ref(false)
const many = computed(() => lane.machines.length > MOST_NAMED && !unfolded.value)
const named = computed(() =>
  many.value
    ? lane.machines.filter(m => TROUBLED.includes(m.state) && m.goneAt === undefined).slice(0, 6)
    : lane.machines,
)
const prices = computed(() => lane.offer?.types.map(t => t.pricePerHour).filter(p => p > 0) ?? [])
const notes = computed(() => [
  ...(lane.offer?.noStock?.length ? [`out of ${lane.offer.noStock.join(', ')}`] : []),
  ...(way?.ownEnd === 'not' ? ['its machines do not end by themselves'] : []),
])
const bars = (m: MachineLine) =>
  stretchesOf(m, now).flatMap((s) => {
    const left = x(Math.max(s.from, now - pastMs))
    const w = x(s.to) - left
    return w > 0.5 ? [{ state: s.state, left, width: w }] : []
  })
</script>

<template>
  <section class="lane" :aria-label="`${lane.code} ${lane.region}`">
    <div class="about">
      <div>
        <LocationCode :code="lane.code" /> <b>{{ lane.region }}</b> <span class="q">{{ lane.way && lane.way !== 'cloud' ? WAY_WORDS[lane.way] : lane.provider }}</span>
      </div>
      <div class="q s12">
        {{ out.length }} out<template v-if="lane.offer">
          · {{ lane.offer.quota.most - lane.offer.quota.used }} of {{ lane.offer.quota.most }} free<template
            v-if="lane.offer.waiting"
          >, {{ Object.values(lane.offer.waiting).reduce((a, b) => a + b, 0) }} kept</template></template><template v-else> · <span class="brick">provider does not answer</span></template>
      </div>
      <div class="q s12">
        <template v-if="lane.usualMs">boots in <span class="measured">{{ duration(lane.usualMs) }}</span></template><template v-else-if="lane.offer?.bootS">boots in <span class="assumed">{{ lane.offer.bootS }} s</span></template><template v-else>no boot</template><template v-if="lane.pathMs">
          · <span class="measured">{{ lane.pathMs.toFixed(1) }} ms</span> to target</template>
      </div>
      <div class="q s12">
        {{ euro(out.reduce((s, m) => s + m.perHour, 0)) }}/h<template v-if="prices.length">
          · from {{ euro(Math.min(...prices)) }}/h</template>
      </div>
      <div v-for="n in notes" :key="n" class="brick s12">{{ n }}</div>
    </div>
    <div class="names">
      <template v-if="many">
        <div
          v-for="c in countStates(lane.machines)"
          :key="c.state"
          class="name"
          :class="{ brick: TROUBLED.includes(c.state) }"
        >
          <AGlyph :name="c.state as GlyphName" :size="10" />
          <b>{{ c.count }}</b><span>{{ MACHINE_WORDS[c.state] }}</span>
        </div>
      </template>
      <button
        v-for="m in named"
        :key="m.id"
        class="name"
        :class="{ brick: TROUBLED.includes(m.state), q: m.goneAt !== undefined && !TROUBLED.includes(m.state) }"
        :title="m.waits?.sentence"
        @click="emit('open', m)"
      >
        <AGlyph :name="m.state as GlyphName" :size="10" /><b>{{ m.name }}</b><span class="q">{{ m.runId === undefined ? 'kept' : `run ${m.runId}` }}{{ m.again ? ', again' : '' }}</span><span v-if="m.interruptible" class="q" title="Interruptible: its provider may take it back">int.</span>
        <span class="state clip">{{
          m.waits?.orderedAt && m.state === 'asked'
            ? `for the peak, in ${duration(m.waits.orderedAt - now)}`
            : m.waits && m.state === 'asked'
              ? `waits ${duration(now - m.waits.since)}`
              : m.reclaimAt && m.goneAt === undefined
                ? `taken back in ${duration(m.reclaimAt - now)}`
                : MACHINE_WORDS[m.state]
        }}</span>
      </button>
      <UButton v-if="lane.machines.length > MOST_NAMED" size="sm" variant="link" @click="unfolded = !unfolded">
        {{ unfolded ? 'Fold' : `Show all ${lane.machines.length}` }}
      </UButton>
      <p v-if="!lane.machines.length" class="q s12 none">
        {{
          lane.way === 'selfEnrolled'
            ? 'no machine has enrolled'
            : `nothing out, and nothing in the last ${duration(pastMs)}`
        }}
      </p>
    </div>
    <div ref="track" class="track">
      <LaneCanvas v-if="many" :machines="lane.machines" :now="now" :past-ms="pastMs" :ahead-ms="aheadMs" />
      <div v-for="m in many ? [] : lane.machines" :key="m.id" class="machine">
        <span
          v-for="s in bars(m)"
          :key="s.state + s.left"
          class="stretch"
          :style="{ left: `${s.left}px` }"
        ><StateBar
          :state="s.state"
          :width="s.width"
        /></span>
        <i
          v-if="m.goneAt === undefined && m.reclaimAt && m.reclaimAt < now + aheadMs"
          class="notch back"
          :style="{ left: `${x(m.reclaimAt)}px` }"
          :title="`${m.name} is taken back in ${duration(m.reclaimAt - now)}`"
        />
        <i
          v-else-if="m.goneAt === undefined && m.leaseEndsAt < now + aheadMs"
          class="notch"
          :style="{ left: `${x(m.leaseEndsAt)}px` }"
          :title="`Lease of ${m.name} ends in ${duration(m.leaseEndsAt - now)}`"
        />
      </div>
      <i class="now" :style="{ left: `${x(now)}px` }" />
    </div>
  </section>
</template>

<style scoped>
.lane {
  display: grid;
  grid-template-columns: 220px 270px minmax(0, 1fr);
  border-bottom: 1px solid var(--hair);
  padding: 8px 10px;
  gap: 0 12px;
  min-height: 84px;
}
.name {
  display: flex;
  align-items: center;
  gap: 6px;
  height: 16px;
  width: 100%;
  font-size: 12px;
  white-space: nowrap;
}
button.name {
  cursor: pointer;
}
button.name:hover b {
  text-decoration: underline;
}
.state {
  margin-left: auto;
}
.track {
  position: relative;
  overflow: hidden;
}
.machine {
  position: relative;
  height: 16px;
}
.stretch {
  position: absolute;
  top: 3px;
}
.now {
  position: absolute;
  top: -8px;
  bottom: -8px;
  width: 1.5px;
  background: var(--ink);
}
.notch {
  position: absolute;
  top: 1px;
  height: 14px;
  border-left: 2px solid var(--plan);
}
.notch::before {
  content: '';
  position: absolute;
  left: -5px;
  top: 0;
  border: 4px solid transparent;
  border-top-color: var(--plan);
}
.notch.back {
  border-left-color: var(--ink);
}
.notch.back::before {
  border-top-color: var(--ink);
}
</style>
