<script setup lang="ts">
/** A run in large type: what it asks, how it stands, its course, four figures. Nothing can be done here. */
import type { Wall } from '~~/core/result/wall'
import { RUN_WORDS } from '~~/core/run/life'
import { clockTime, runTime } from '~/format/moments'
import { VERDICT_MARKS } from '~/format/runs'

const { wall, now } = defineProps<{
  wall: Wall
  /** The server's time, ms since 1970. */
  now: number
}>()
const mark = computed(() => (wall.verdict === undefined ? undefined : VERDICT_MARKS[wall.verdict]))
const at = computed(() => {
  const { isOver, state, startAt, endedAt } = wall
  if (isOver) return `${RUN_WORDS[state]} at ${clockTime(endedAt ?? now)}`
  return startAt === undefined ? clockTime(now) : runTime((now - startAt) / 1000)
})
</script>

<template>
  <div class="wall">
    <header>
      <p class="what">{{ wall.name }} · run {{ wall.run }} · {{ wall.target }}</p>
      <p class="clock">{{ at }}</p>
    </header>
    <h1>{{ wall.question }}</h1>
    <p class="says" role="status">
      <AGlyph v-if="mark" :name="mark.glyph" :size="40" :class="mark.tone" :word="mark.word" />
      <b :class="mark?.tone">{{ wall.says }}</b>
    </p>
    <WallCourse v-if="wall.course" :course="wall.course" />
    <section class="figures" aria-label="Figures">
      <div v-for="f in wall.figures" :key="f.name">
        <p class="name">{{ f.name }}</p>
        <p class="value" :class="{ brick: f.isBad }">{{ f.value }}</p>
        <p class="under">{{ f.under }}</p>
      </div>
    </section>
    <footer>
      <slot />
      <span class="q">{{ RUN_WORDS[wall.state] }}{{ wall.isUnderLoad ? `, ${runTime(wall.lengthS)} in all` : '' }}</span>
    </footer>
  </div>
</template>

<style scoped>
.wall {
  min-height: 100vh;
  padding: 3vmin 4vmin;
  display: flex;
  flex-direction: column;
  gap: 2vmin;
  background: var(--bg);
}
header,
footer {
  display: flex;
  justify-content: space-between;
  gap: 2vmin;
  align-items: baseline;
}
.what,
.under {
  color: var(--quiet);
  font-size: 2.6vmin;
  line-height: 1.25;
}
.clock {
  font-size: 6vmin;
  line-height: 1;
  font-weight: 620;
  font-stretch: 112%;
  white-space: nowrap;
}
h1 {
  font-size: 4.4vmin;
  line-height: 1.2;
  font-weight: 560;
}

.says :deep(svg) {
  vertical-align: -0.6vmin;
  margin-right: 1vmin;
}
.says {
  font-size: 5vmin;
  line-height: 1.2;
  min-height: 12vmin;
}
.figures {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(100%, 36vmin), 1fr));
  gap: 2vmin;
  margin-block: auto;
}
.figures > div {
  border-top: 2px solid var(--ink);
  padding-top: 1.4vmin;
}
.name {
  font-size: 2.8vmin;
}
.value {
  font-size: 8vmin;
  line-height: 1.15;
  font-weight: 620;
  font-stretch: 112%;
  white-space: nowrap;
}
</style>
