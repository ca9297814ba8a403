<script setup lang="ts">
/** All runs, the latest first. */
import type { RunLine } from '~~/api/views'
import { MOST_COMPARED } from '~~/core/compare/rows'
import { RUN_WORDS } from '~~/core/run/life'
import type { ListColumn } from '~/components/marks/list-table'
import { count, euro } from '~~/core/values/said-figures'
import { dayTime } from '~/format/moments'
import { markOf } from '~/format/runs'

const live = useLive()
const me = useMe()
const { problem, guarded, readSeen } = useGuarded()
const { found: newest, load } = readSeen('runs', {})
/** Older ones, as far as they were asked for. */
const older = ref<RunLine[]>([])
const runs = computed(() => {
  const last = newest.value?.at(-1)?.id ?? 0
  return newest.value && [...newest.value, ...older.value.filter(r => r.id < last)]
})
const noOlder = ref(false)
/** Runs the server tells at once. */
const MOST_AT_ONCE = 200
const canBeMore = computed(() => (newest.value?.length ?? 0) >= MOST_AT_ONCE && !noOlder.value)
async function loadOlder(): Promise<void> {
  await guarded(async () => {
    const found = await api('runs', { before: runs.value?.at(-1)?.id })
    older.value = [...older.value, ...found]
    noOlder.value = found.length < MOST_AT_ONCE
  })
}

const only = {
  plan: ref<string[]>([]),
  target: ref<string[]>([]),
  answer: ref<string[]>([]),
  soundness: ref<string[]>([]),
  tag: ref<string[]>([]),
}
const KINDS = [
  { value: 'all', label: 'runs and calibrations' },
  { value: 'runs', label: 'no calibrations' },
  { value: 'calibrations', label: 'calibrations' },
]
const kind = ref('all')
const DAY_MS = 86_400_000
const SPANS = [
  { value: 0, label: 'at any time' },
  { value: 1, label: 'in the last day' },
  { value: 7, label: 'in the last 7 days' },
  { value: 30, label: 'in the last 30 days' },
  { value: 365, label: 'in the last year' },
]
/** Days before now. */
const days = ref(0)
const pinnedOnly = ref(false)
/** What there is to choose from, as the runs have it. */
const choices = computed(() => {
  const of = (values: (r: RunLine) => readonly string[]) =>
    [...new Set((runs.value ?? []).flatMap(values))].sort().map(value => ({ value, label: value }))
  return {
    plan: of(r => [r.planName]),
    target: of(r => [r.target]),
    answer: of(r => [markOf(r).word]),
    soundness: of(r => (r.soundness ? [r.soundness] : [])),
    tag: of(r => r.tags),
  }
})
const shown = computed(() => {
  const isIn = (chosen: readonly string[], values: readonly string[]) =>
    chosen.length === 0 || values.some(v => chosen.includes(v))
  return (runs.value ?? []).filter(r =>
    isIn(only.plan.value, [r.planName])
    && isIn(only.target.value, [r.target])
    && isIn(only.answer.value, [markOf(r).word])
    && isIn(only.soundness.value, r.soundness ? [r.soundness] : [])
    && isIn(only.tag.value, r.tags)
    && (kind.value === 'all' || r.calibrates === (kind.value === 'calibrations'))
    && (days.value === 0 || r.createdAt >= live.controllerNow - days.value * DAY_MS)
    && (!pinnedOnly.value || r.pinned))
})
/** Runs that are to be compared, in the order in which they were chosen: the others are held against the first. */
const chosen = ref<number[]>([])
const choose = (id: number, is: boolean) => {
  chosen.value = is ? [...chosen.value, id] : chosen.value.filter(c => c !== id)
}
const canBeCompared = (r: RunLine) => r.verdict !== undefined && !r.calibrates
const again = ref<RunLine>()
const asking = computed({
  get: () => again.value !== undefined,
  set: (is) => {
    if (!is) again.value = undefined
  },
})
live.onNews((news) => {
  if (news.kind === 'run') void load()
})
const standings = useStandings(() => runs.value ?? [])
/** Shown where there is one. */
const hasBaseline = computed(() => (runs.value ?? []).some(r => r.baseline !== undefined))
const standing = (r: RunLine) =>
  r.baseline === undefined ? undefined : standings.value[r.id]?.short ?? (r.verdict === undefined ? undefined : '…')
const columns = computed((): ListColumn<RunLine>[] => [
  { id: 'choose', head: '' },
  { id: 'run', head: 'Run', num: true, value: r => r.id },
  { id: 'question', head: 'Name or question', wide: true, value: r => [r.name, r.question].filter(Boolean).join(' · ') },
  { id: 'answer', head: 'Answer', wide: true, value: r => r.sentence },
  { id: 'plan', head: 'Plan', asked: true, value: r => r.planName },
  { id: 'target', head: 'Target', asked: true, value: r => r.target },
  { id: 'build', head: 'Build', asked: true, value: r => r.build || undefined },
  { id: 'tags', head: 'Tags', asked: true, value: r => r.tags.join(', ') || undefined },
  { id: 'pinned', head: 'Pinned', asked: true, value: r => (r.pinned ? 'pinned' : undefined) },
  { id: 'baseline', head: 'Against its baseline', asked: !hasBaseline.value, value: r => (r.isBaseline ? 'the baseline' : standing(r)) },
  { id: 'state', head: 'State', asked: true, value: r => RUN_WORDS[r.state] },
  { id: 'users', head: 'Users', num: true, value: r => r.peakUsers },
  { id: 'soundness', head: 'Soundness', value: r => r.soundness },
  { id: 'cost', head: 'Cost, €', num: true, value: r => r.cost },
  { id: 'when', head: 'When', num: true, value: r => r.createdAt },
  { id: 'acts', head: '' },
])
useHead({ title: 'Runs · Vornak' })
</script>

<template>
  <div class="screen">
    <div class="body list-page">
      <ProblemNote v-if="problem" :problem="problem" />
      <ListTable
        v-if="runs?.length"
        name="runs"
        :rows="shown"
        :columns="columns"
        :row-key="r => r.id"
        :sorted-by="{ id: 'run', desc: true }"
        height="calc(100dvh - 96px)"
        search="Find in names, questions, answers, tags"
      >
        <template #head>
          <h1>Runs</h1>
          <UButton variant="link" to="/runs/kept">What is kept</UButton>
          <UButton v-if="me.may('operator')" variant="link" to="/runs/elsewhere">From elsewhere</UButton>
          <PickSome
            v-if="choices.plan.length > 1"
            v-model="only.plan.value"
            size="sm"
            aria-label="Which plans"
            :items="choices.plan"
            all="all plans"
          />
          <PickSome
            v-if="choices.target.length > 1"
            v-model="only.target.value"
            size="sm"
            aria-label="Which targets"
            :items="choices.target"
            all="all targets"
          />
          <PickSome
            v-if="choices.answer.length > 1"
            v-model="only.answer.value"
            size="sm"
            aria-label="Which answers"
            :items="choices.answer"
            all="all answers"
          />
          <PickSome
            v-if="choices.tag.length > 0"
            v-model="only.tag.value"
            size="sm"
            aria-label="Which tags"
            :items="choices.tag"
            all="all tags"
          />
          <PickSome
            v-if="choices.soundness.length > 1"
            v-model="only.soundness.value"
            size="sm"
            aria-label="How sound"
            :items="choices.soundness"
            all="however sound"
          />
          <PickOne v-if="runs.some(r => r.calibrates)" v-model="kind" size="sm" aria-label="Runs or calibrations" :items="KINDS" />
          <PickOne v-model="days" size="sm" aria-label="When" :items="SPANS" />
          <UCheckbox v-if="runs.some(r => r.pinned)" v-model="pinnedOnly" label="pinned" />
          <UButton
            v-if="chosen.length > 0"
            size="sm"
            variant="solid"
            :disabled="chosen.length < 2"
            :to="`/runs/compare?runs=${chosen.join(',')}`"
          >
            {{ chosen.length < 2 ? `Compare ${chosen[0]} with …` : `Compare ${chosen.join(', ')}` }}
          </UButton>
          <UButton v-if="canBeMore" size="sm" variant="link" @click="loadOlder">Older ones too</UButton>
        </template>
        <template #choose="{ row }">
          <UCheckbox
            v-if="canBeCompared(row)"
            :model-value="chosen.includes(row.id)"
            :disabled="!chosen.includes(row.id) && chosen.length >= MOST_COMPARED"
            :aria-label="`Compare run ${row.id}`"
            @update:model-value="is => choose(row.id, is === true)"
          />
          <span v-else />
        </template>
        <template #run="{ row }"><b>{{ row.id }}</b></template>
        <template #question="{ row }">
          <UIcon v-if="row.pinned" name="i-lucide-pin" class="pin" aria-label="pinned" />
          <NuxtLink :to="`/runs/${row.id}`" class="u" :title="row.question"><b v-if="row.name">{{ row.name }}</b><template v-if="row.name"> · </template>{{ row.question }}</NuxtLink>
          <UBadge v-if="row.isBaseline" size="sm" class="tag" title="Later runs of its plan are held against it">baseline</UBadge>
          <UBadge v-for="tag in row.tags" :key="tag" size="sm" class="tag">{{ tag }}</UBadge>
        </template>
        <template #answer="{ row }">
          <AGlyph :name="markOf(row).glyph" :class="markOf(row).tone" :word="markOf(row).word" /> <b
            :class="markOf(row).tone"
            :title="row.sentence"
          >{{ row.sentence }}</b>
        </template>
        <template #baseline="{ row }">
          <NuxtLink
            v-if="standing(row)"
            :to="`/runs/compare?runs=${row.baseline},${row.id}`"
            class="u"
            :title="standings[row.id]?.sentence ?? `adding up run ${row.baseline} and this one…`"
          >{{ standing(row) }}</NuxtLink>
          <span v-else-if="row.isBaseline" class="q">the baseline</span>
        </template>
        <template #users="{ row }">{{ count(row.peakUsers) }}</template>
        <template #soundness="{ row }">
          <template v-if="row.soundness">
            <AGlyph
              v-if="row.soundness !== 'sound'"
              name="costsSoundness"
              :class="row.soundness === 'unsound' ? 'brick' : 'plantx'"
              :word="row.soundness"
            /> {{ row.soundness }}
          </template>
          <span v-else class="q">{{ RUN_WORDS[row.state] }}</span>
        </template>
        <template #cost="{ row }">{{ euro(row.cost) }}</template>
        <template #when="{ row }"><span class="q">{{ dayTime(row.createdAt, live.controllerNow) }}</span></template>
        <template #acts="{ row }">
          <UButton
            v-if="!row.isClaimed"
            v-needs="'operator'"
            size="xs"
            variant="link"
            :aria-label="`Again, run ${row.id}`"
            @click="again = row"
          >Again</UButton>
        </template>
      </ListTable>
      <template v-else>
        <h1>Runs</h1>
        <p v-if="runs" class="q">No run yet. Open a plan and start it, or <NuxtLink to="/runs/elsewhere" class="u">read what other programs measured</NuxtLink>.</p>
        <p v-else-if="!problem" class="q">Reading the runs…</p>
      </template>
    </div>
    <AgainDialog v-if="again" v-model:open="asking" :run="again" />
  </div>
</template>

<style scoped>
.pin {
  color: var(--act);
  margin-right: 4px;
}
.tag {
  margin-left: 6px;
}
</style>
