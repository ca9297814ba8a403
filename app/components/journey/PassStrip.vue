<script setup lang="ts">
/**
 * One pass as time, to scale: requests solid, pauses as the line between them, spans as brackets above. Response times
 * are those of the last try, or a guess.
 */
import { isBundle, meanThinkMs, requestsOf, STAGES, stepsOf, type Stage, type Step } from '~~/core/journey/journey'
import { seconds } from '~/format/journeys'
import { duration } from '~/format/moments'

const store = useJourney()
/** Until a step has been tried, ms. */
const GUESS_MS = 100

const tookMs = (step: Step) => {
  const records = store.tried?.records.filter(r => requestsOf(step).some(p => p.name === r.step)) ?? []
  if (records.length === 0) return GUESS_MS
  return isBundle(step)
    ? Math.max(...records.map(r => r.endedAtMs)) - Math.min(...records.map(r => r.beganAtMs))
    : records[0]!.timings.wholeMs
}
const blocks = computed(() => {
  const journey = store.http
  if (!journey) return []
  let at = 0
  return STAGES.flatMap(stage =>
    stepsOf(journey, stage).map((step) => {
      const [fromMs, busyMs, thinkMs] = [at, tookMs(step), meanThinkMs(step.think)]
      at += busyMs + thinkMs
      return { stage, step, index: journey[stage].indexOf(step), fromMs, busyMs, thinkMs }
    }),
  )
})
const wholeMs = computed(() =>
  Math.max(
    1,
    blocks.value.reduce((sum, b) => sum + b.busyMs + b.thinkMs, 0),
  ),
)
const x = (ms: number) => `${(ms / wholeMs.value) * 100}%`
const spans = computed(() =>
  (store.http?.spans ?? []).flatMap((span) => {
    const [from, to] = [
      blocks.value.find(b => b.step.name === span.from),
      blocks.value.find(b => b.step.name === span.to),
    ]
    return from && to ? [{ name: span.name, fromMs: from.fromMs, toMs: to.fromMs + to.busyMs }] : []
  }),
)
const roundMs = computed(() =>
  blocks.value.filter(b => b.stage === 'round').reduce((sum, b) => sum + b.busyMs + b.thinkMs, 0),
)
const here = (stage: Stage, index: number) => store.chosen?.stage === stage && store.chosen.at === index
</script>

<template>
  <figure class="strip" :aria-label="`One pass takes about ${duration(wholeMs)}`">
    <figcaption>
      <span>One round <b class="planned">{{ seconds(roundMs) }}</b>,
        {{ Math.round(3_600_000 / Math.max(roundMs, store.http?.pacingMs ?? 0, 1)) }} passes an hour and user</span>
      <span class="q">{{ store.tried ? 'response times of the last try' : `${GUESS_MS} ms a response until it is tried`
      }}<template v-if="store.http?.pacingMs">, paced to one every {{ seconds(store.http.pacingMs) }}</template></span>
    </figcaption>
    <div class="axis">
      <i
        v-for="s in spans"
        :key="s.name"
        class="span"
        :style="{ left: x(s.fromMs), width: x(s.toMs - s.fromMs) }"
        :title="s.name"
      ><span v-if="(s.toMs - s.fromMs) / wholeMs > 0.12">{{ s.name }}</span></i>
      <button
        v-for="b in blocks"
        :key="b.step.name"
        class="block"
        :class="[b.stage, { here: here(b.stage, b.index), bundle: isBundle(b.step) }]"
        :style="{ left: x(b.fromMs), width: x(b.busyMs) }"
        :title="`${b.step.name}, then ${seconds(b.thinkMs)} of pause`"
        :aria-label="b.step.name"
        tabindex="-1"
        @click="store.chosen = { stage: b.stage, at: b.index, part: 0 }"
      />
      <template
        v-for="b in blocks"
        :key="`${b.step.name} name`"
      ><span
        v-if="(b.busyMs + b.thinkMs) / wholeMs > 0.06"
        class="word clip"
        :style="{ left: x(b.fromMs), width: x(b.busyMs + b.thinkMs) }"
      >{{ b.step.name }}</span></template>
    </div>
  </figure>
</template>

<style scoped>
.strip {
  margin: 0;
}
figcaption {
  display: flex;
  gap: 16px;
  font-size: 12.5px;
  height: 20px;
  white-space: nowrap;
  overflow: hidden;
}
.axis {
  position: relative;
  height: 46px;
}
.axis::before {
  content: '';
  position: absolute;
  left: 0;
  right: 0;
  top: 24px;
  border-top: 1px solid var(--edge);
}
.block {
  position: absolute;
  top: 16px;
  height: 16px;
  min-width: 4px;
  background: var(--ink);
  cursor: pointer;
  border-radius: 1px;
}
.block.opening,
.block.closing {
  background: var(--panel);
  border: 1px solid var(--ink);
}
.block.bundle {
  background: repeating-linear-gradient(0deg, var(--ink) 0 3px, var(--bg) 3px 5px);
}
.block.here {
  background: var(--act);
  border-color: var(--act);
  outline: 2px solid var(--act);
  outline-offset: 1px;
}
.word {
  position: absolute;
  top: 33px;
  font-size: 11px;
  line-height: 13px;
  color: var(--quiet);
  padding-right: 6px;
}
.span {
  position: absolute;
  top: 6px;
  height: 7px;
  border: 1px solid var(--quiet);
  border-bottom: 0;
  font-style: normal;
}
.span span {
  position: absolute;
  top: -7px;
  left: 8px;
  font-size: 11px;
  line-height: 12px;
  background: var(--bg);
  padding: 0 4px;
  color: var(--quiet);
  white-space: nowrap;
}
</style>
