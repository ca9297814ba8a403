<script setup lang="ts">
/**
 * A run that is under way: its answer so far, five figures, the stave with the machine map, what happened, and the
 * hands.
 */
import { useLocalStorage } from '@vueuse/core'
import { RUN_WORDS } from '~~/core/run/life'
import { VERDICT_MARKS } from '~/format/runs'
import { latestKnown } from '~~/core/merge/second-figures'
import { count, euro } from '~~/core/values/said-figures'

const StreamsNow = ownPart(() => import('../elsewhere/StreamsNow.vue'))
const ShareDialog = ownPart(() => import('../report/ShareDialog.vue'))
const RunAboutDialog = ownPart(() => import('./RunAboutDialog.vue'))
const RunStave = ownPart(() => import('../stave/RunStave.vue'))
const store = useRun()
// Its page shows it only once it is there.
const run = computed(() => store.view!)
/** Other programs tell of it: it has no machines, and ends with their last word. */
const claimed = computed(() => run.value.document.claimed)
const SIDES = [{ label: 'Steps', value: 'steps' }, { label: 'Kept exchanges', value: 'kept' }]
const shown = useLocalStorage('vornak.run.side', 'steps')
const WIDE_S = 400
const wide = ref(true)
/** Of a long run the last seconds are shown, and room for those that come: it moves on by so much, s. */
const LATE_S = 180
const MOVES_BY_S = 10
/** Seconds come so long after the plan's end, s. */
const PAST_THE_END_S = 6
const lengthS = computed(() => run.value.lengthS)
const zoom = useZoom(() => lengthS.value + PAST_THE_END_S)
/** Where what is shown ends: behind the plan's end, or behind now. */
const spanEndS = computed(() => {
  const end = lengthS.value + PAST_THE_END_S
  if (lengthS.value <= WIDE_S || wide.value) return end
  return Math.max(LATE_S, Math.min(end, (Math.floor(store.secondNow / MOVES_BY_S) + 2) * MOVES_BY_S))
})
const span = computed(() => ({
  fromS: lengthS.value <= WIDE_S || wide.value ? 0 : spanEndS.value - LATE_S,
  toS: spanEndS.value,
}))
// What is looked at closely is told second by second.
watch([() => zoom.value ?? span.value, () => store.stretchS], ([shown]) => void store.refine(shown))

const soFar = useSoFar()

const { armed, press } = useTwice()
const about = useOpenInAddress('open', 'about')
const isSharing = useOpenInAddress('open', 'share')
useActs([
  { key: 'S', needs: 'operator', says: 'Stop: let users finish', act: () => void store.act('stopRun') },
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
        <!-- Told when it changes, and not with each second. -->
        <p class="sr" role="status">{{ RUN_WORDS[run.line.state] }}{{ soFar ? `; ${VERDICT_MARKS[soFar.verdict].word} until now` : '' }}</p>
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
      <RunPhase />
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
            :now-s="store.secondNow"
            :span="zoom ?? span"
            :broken="run.brokenSoFar"
          /></div>
          <SlowestNote :seconds="store.seconds" :span="zoom ?? span" />
          <MachineMap v-if="!claimed" :run="run" :seconds="store.seconds" :span="zoom ?? span" />
        </div>
        <div class="side">
          <StreamsNow v-if="claimed" :run="run" />
          <GroupsNow v-else :run="run" :seconds="store.seconds" />
          <UTabs
            v-model="shown"
            size="sm"
            variant="link"
            :items="SIDES"
            :content="false"
            aria-label="What is shown"
          />
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
      <UButton v-needs="'operator'" variant="link" @click="isSharing = true">Share</UButton>
      <UButton variant="link" @click="about = true">Name, notes, tags <UKbd>b</UKbd></UButton>
      <UButton v-needs="'operator'" @click="store.act('stopRun')">
        {{ claimed ? 'End it' : store.underLoad ? 'Stop' : 'Stop and release' }}
        <span v-if="store.underLoad && !claimed" class="q">users finish their answer</span> <UKbd>Shift S</UKbd>
      </UButton>
      <span v-if="!claimed" class="apart" />
      <UButton v-if="!claimed" v-needs="'operator'" color="error" @click="press(() => store.act('abortRun'))">
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
