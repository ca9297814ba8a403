<script setup lang="ts">
/**
 * A run that is under way: its answer so far, five figures, the stave with the machine map, what happened, and the
 * hands.
 */
import { useLocalStorage } from '@vueuse/core'
import { VERDICT_MARKS } from '~/format/runs'
import { RUN_WORDS } from '~~/core/run/life'
import { latestKnown } from '~~/core/merge/second-figures'
import { stairAt } from '~~/core/objectives/stair'
import { count, euro } from '~~/core/values/said-figures'
import { clockTime, duration, runTime } from '~/format/moments'

const StreamsNow = defineAsyncComponent(() => import('../elsewhere/StreamsNow.vue'))
const ShareDialog = defineAsyncComponent(() => import('../report/ShareDialog.vue'))
const RunAboutDialog = defineAsyncComponent(() => import('./RunAboutDialog.vue'))
const RunStave = defineAsyncComponent(() => import('../stave/RunStave.vue'))
const store = useRun()
const live = useLive()
const run = computed(() => store.view!)
/** Other programs tell of it: it has no machines, and ends with their last word. */
const claimed = computed(() => run.value.document.claimed)
const since = computed(() => run.value.changes.findLast(c => c.from !== c.to)?.at ?? run.value.line.createdAt)
const left = computed(() => run.value.lengthS - (store.nowS ?? 0))
const endsAt = computed(() => (run.value.line.startAt ?? 0) + run.value.lengthS * 1000)
const done = computed(() => (store.nowS ?? 0) / Math.max(1, run.value.lengthS))
/** Once its moment is fixed: how long until the load begins. */
const startsInMs = computed(() => (run.value.line.startAt ?? 0) - live.controllerNow)
/** The second it is, whole: what depends on it is worked out once a second. */
const second = computed(() => Math.max(0, Math.floor(store.nowS ?? 0)))
const stair = computed(() => stairAt(run.value.document.plan, second.value))
const stairText = computed(() => {
  const { isOn, users, fromS, toS, number, of } = stair.value!
  const which = of > 1 ? `level ${number} of ${of}, ` : ''
  return isOn
    ? `${which}${count(users)} users for another ${duration((toS - second.value) * 1000)}`
    : `${which}${count(users)} users, from ${runTime(fromS)} on`
})
/** What stands behind the word for its state. */
const phaseText = computed(() => {
  if (claimed.value) return ` for ${duration(live.controllerNow - since.value)}`
  if (store.underLoad && left.value > 0) {
    const stairs = stair.value ? [stairText.value] : []
    return ['', ...stairs, `${duration(left.value * 1000)} left, until ${clockTime(endsAt.value)}`].join(' · ')
  }
  if (startsInMs.value <= 0) return ` for ${duration(live.controllerNow - since.value)}`
  const rest = run.value.document.plan.targetFigures ? '; the target is read at rest until then' : ''
  return ` · the load starts in ${duration(startsInMs.value)}${rest}`
})
const SIDES = [{ label: 'Steps', value: 'steps' }, { label: 'Kept exchanges', value: 'kept' }]
const shown = useLocalStorage('vornak.run.side', 'steps')
const WIDE_S = 400
const wide = ref(true)
const zoom = useZoom()
const span = computed(() => {
  const whole = { fromS: 0, toS: run.value.lengthS + 6 }
  if (run.value.lengthS <= WIDE_S || wide.value) return whole
  const end = Math.max(180, Math.min(whole.toS, Math.floor(store.nowS ?? 0) + 20))
  return { fromS: Math.max(0, end - 180), toS: end }
})

const soFar = useSoFar()

const { armed, press } = useTwice()
const about = useOpenInAddress('open', 'about')
const isSharing = useOpenInAddress('open', 'share')
useActs([
  { key: 'S', says: 'Stop: let users finish', act: () => void store.act('stopRun') },
  {
    key: 'b',
    says: 'Name, notes and tags of this run',
    act: () => {
      about.value = true
    },
  },
])
const present = computed(() => latestKnown(store.seconds)?.usersByLocation.reduce((a, b) => a + b, 0) ?? 0)
</script>

<template>
  <div class="run">
    <header class="head">
      <div class="clip">
        <h1 class="clip"><template v-if="run.line.name">{{ run.line.name }} · </template>{{ run.line.question }}</h1>
        <div class="answer">
          <template v-if="soFar">
            <AGlyph
              :name="VERDICT_MARKS[soFar.verdict].glyph"
              :class="VERDICT_MARKS[soFar.verdict].tone"
              :word="VERDICT_MARKS[soFar.verdict].word"
            />&nbsp; <b :class="VERDICT_MARKS[soFar.verdict].tone">{{ soFar.word }}</b>
            {{ soFar.sentence }}, over the last 10 s.
            <span class="q">The last 2 s are provisional.</span>
          </template>
          <span v-else class="q">{{ run.changes.at(-1)?.reason }}</span>
        </div>
      </div>
      <div class="phase">
        <div class="clock">{{ store.nowS === undefined ? clockTime(live.controllerNow) : runTime(store.nowS) }}</div>
        <div class="s12 q">
          <b class="ink">{{ RUN_WORDS[run.line.state] }}</b>{{ phaseText }}
        </div>
        <UProgress
          v-if="store.underLoad && !claimed"
          size="xs"
          class="progress"
          :model-value="Math.max(0, Math.min(100, done * 100))"
          :aria-label="`${Math.round(done * 100)} % of the plan is over`"
        />
      </div>
    </header>
    <template v-if="store.underLoad">
      <FigureStrip :run="run" :seconds="store.seconds" :recent="store.recent" class="strip" />
      <div class="middle">
        <div class="charts">
          <UButton v-if="run.lengthS > WIDE_S && !zoom" size="sm" variant="link" class="span" @click="wide = !wide">
            {{ wide ? 'last 3 min' : 'whole run' }}
          </UButton>
          <div class="stave"><RunStave
            :run="run"
            :seconds="store.seconds"
            :now-s="store.nowS"
            :span="zoom ?? span"
            :broken="run.brokenSoFar"
          /></div>
          <MachineMap v-if="!claimed" :run="run" :seconds="store.seconds" :span="zoom ?? span" />
        </div>
        <div class="side">
          <StreamsNow v-if="claimed" :run="run" />
          <GroupsNow v-else :run="run" :seconds="store.seconds" />
          <UTabs v-model="shown" size="sm" variant="link" :items="SIDES" :content="false" aria-label="What is shown" />
          <div class="now">
            <StepsNow v-if="shown === 'steps'" :run="run" :recent="store.recent" />
            <KeptNow v-else :run="run" />
          </div>
          <RunEvents :run="run" />
        </div>
      </div>
    </template>
    <div v-else class="middle before">
      <div class="crew">
        <GatheringPanel
          v-if="run.gathering"
          :gathering="run.gathering"
          :cost="euro(run.cost)"
          @go="store.act('goWith')"
        />
        <StreamsNow v-if="claimed" :run="run" />
        <CrewTable v-else :run="run" />
        <section v-if="run.rollCall.machines.length" class="panel called">
          <h2>Roll call</h2>
          <RollCallTable :view="run.rollCall" />
        </section>
      </div>
      <RunEvents :run="run" />
    </div>
    <footer class="sill">
      <span v-if="claimed" class="q">Measured elsewhere: the run ends when all who tell of it have said their last word, or when it is ended here.</span>
      <span
        v-else-if="store.underLoad"
        class="q"
      >{{ count(present) }} users present. Their machines are given back when the run has settled.</span>
      <span
        v-else
        class="q"
      >Nothing is sent to the target yet, but for the rehearsal. Machines cost from the moment they are
        allocated.</span>
      <span class="spring" />
      <UButton v-if="store.underLoad" variant="link" :to="`/watch/${run.line.id}`">In large type</UButton>
      <UButton variant="link" @click="isSharing = true">Share</UButton>
      <UButton variant="link" @click="about = true">Name, notes, tags <UKbd>b</UKbd></UButton>
      <UButton @click="store.act('stopRun')">
        {{ claimed ? 'End it' : store.underLoad ? 'Stop' : 'Stop and release' }}
        <span v-if="store.underLoad && !claimed" class="q">users finish their answer</span> <UKbd>Shift S</UKbd>
      </UButton>
      <span v-if="!claimed" class="apart" />
      <UButton v-if="!claimed" color="error" @click="press(() => store.act('abortRun'))">
        {{ armed ? 'Press again to cut everybody off' : 'Abort' }}
        <span v-if="!armed" class="thin">cut off at once</span>
      </UButton>
    </footer>
    <ShareDialog v-if="isSharing" v-model:open="isSharing" :thing="{ kind: 'run', runs: [run.line.id] }" />
    <RunAboutDialog v-if="about" v-model:open="about" :run="run" @saved="store.reload()" />
  </div>
</template>

<style scoped>
.run {
  display: grid;
  grid-template-rows: auto auto minmax(0, 1fr) 44px;
  height: 100%;
  min-height: 0;
}
.head {
  padding: 6px 12px 6px 14px;
  display: flex;
  gap: 16px;
  grid-row: 1;
}
.head > :first-child {
  flex: 1;
}
.head h1 {
  font-size: 16px;
  line-height: 20px;
}
.answer {
  font-size: 14px;
  line-height: 20px;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
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
.strip {
  margin: 0 12px;
  grid-row: 2;
}
.middle {
  grid-row: 3;
  display: grid;
  grid-template-columns: minmax(0, 1fr) 330px;
  gap: 14px;
  padding: 8px 12px 0;
  min-height: 0;
}
.side {
  display: grid;
  grid-template-rows: auto auto minmax(0, 1.4fr) minmax(120px, 1fr);
  gap: 4px;
  min-height: 0;
}
.now {
  overflow: auto;
  min-height: 0;
}
.progress {
  margin-top: 2px;
}
.before {
  grid-template-columns: minmax(0, 1fr) 340px;
}
.charts {
  display: grid;
  grid-template-rows: minmax(0, 1fr) auto;
  min-height: 0;
  position: relative;
  padding-bottom: 6px;
}
.stave {
  display: flex;
  flex-direction: column;
  min-height: 0;
  overflow-y: auto;
}
.span {
  position: absolute;
  top: -4px;
  left: 0;
  z-index: 2;
  height: 20px;
}
.sill {
  grid-row: 4;
}
.crew {
  display: grid;
  gap: 12px;
  align-content: start;
  min-width: 0;
  overflow: auto;
}
.called {
  padding: 8px 10px;
  overflow-x: auto;
}
.apart {
  width: 20px;
}
.thin {
  font-weight: 450;
}
</style>
