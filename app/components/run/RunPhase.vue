<script setup lang="ts">
/** How far a run is: its clock, its phase with what is left of it, and the share that is over. Moves by itself. */
import { RUN_WORDS } from '~~/core/run/life'
import { stairAt } from '~~/core/objectives/stair'
import { count } from '~~/core/values/said-figures'
import { clockTime, duration, runTime } from '~/format/moments'
import { present } from '~~/core/values/present'

const store = useRun()
const live = useLive()
// Its page shows it only once it is there.
const run = computed(() => store.view!)
const since = computed(() => run.value.changes.findLast(c => c.from !== c.to)?.at ?? run.value.line.createdAt)
const left = computed(() => run.value.lengthS - store.secondNow)
const endsAt = computed(() => (run.value.line.startAt ?? 0) + run.value.lengthS * 1000)
const donePercent = computed(() =>
  Math.max(0, Math.min(100, (100 * store.secondNow) / Math.max(1, run.value.lengthS))))
/** Once its moment is fixed: how long until the load begins. */
const startsInMs = computed(() => (run.value.line.startAt ?? 0) - live.controllerNow)
const stair = computed(() => stairAt(run.value.document.plan, store.secondNow))
const stairText = computed(() => {
  const { isOn, users, fromS, toS, number, of } = present(stair.value, 'the stair one is on')
  const which = of > 1 ? `level ${number} of ${of}, ` : ''
  return isOn
    ? `${which}${count(users)} users for another ${duration((toS - store.secondNow) * 1000)}`
    : `${which}${count(users)} users, from ${runTime(fromS)} on`
})
/** What stands behind the word for its state. */
const text = computed(() => {
  if (run.value.document.claimed) return ` for ${duration(live.controllerNow - since.value)}`
  if (store.underLoad && left.value > 0) {
    const stairs = stair.value ? [stairText.value] : []
    return ['', ...stairs, `${duration(left.value * 1000)} left, until ${clockTime(endsAt.value)}`].join(' · ')
  }
  if (startsInMs.value <= 0) return ` for ${duration(live.controllerNow - since.value)}`
  const rest = run.value.document.plan.targetFigures ? '; the target is read at rest until then' : ''
  return ` · the load starts in ${duration(startsInMs.value)}${rest}`
})
</script>

<template>
  <div class="phase">
    <div class="clock">{{ store.nowS === undefined ? clockTime(live.controllerNow) : runTime(store.nowS) }}</div>
    <div class="s12 q">
      <b class="ink">{{ RUN_WORDS[run.line.state] }}</b>{{ text }}
    </div>
    <UProgress
      v-if="store.underLoad && !run.document.claimed"
      size="xs"
      class="progress"
      :model-value="donePercent"
      :aria-label="`${Math.round(donePercent)} % of the plan is over`"
    />
  </div>
</template>

<style scoped>
.phase {
  text-align: right;
  white-space: nowrap;
}
.clock {
  font-weight: 620;
  font-size: 24px;
  line-height: 26px;
  font-stretch: 112%;
}
.ink {
  color: var(--ink);
}
.progress {
  margin-top: 2px;
}
</style>
