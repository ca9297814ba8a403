<script setup lang="ts">
/** What is kept, how long, and how large it is. */
import type { KeepingRules, KeptView } from '~~/api/views'
import type { ListColumn } from '~/components/marks/list-table'
import { bytes, count } from '~~/core/values/said-figures'
import { dayTime } from '~/format/moments'
import { present } from '~~/core/values/present'

const live = useLive()
const toast = useToast()
const { problem, guarded, read } = useGuarded()
const { found: view, load } = read('kept')
live.onNews((news) => {
  if (news.kind === 'run') void load()
})
const RULES = [
  ['foldHours', 'Frames of runs that took longer are folded, hours', 'what each generator sent, when the run is over'],
  ['runDays', 'What runs measured, days', 'seconds, distributions, ledgers of each generator; answers stay for good'],
  ['exchangeDays', 'Exchanges kept whole, days', 'and what commands left on generators'],
  ['uploadDays', 'Uploads that nothing refers to, days', 'no journey in any version, no feed, no run'],
] as const
type Row = KeptView['runs'][number]
const COLUMNS: ListColumn<Row>[] = [
  { id: 'run', head: 'Run', num: true, value: r => r.id },
  { id: 'question', head: 'Question', wide: true, value: r => r.question },
  { id: 'ended', head: 'Ended', num: true, value: r => r.endedAt },
  { id: 'size', head: 'Size', num: true, value: r => r.bytes },
  { id: 'state', head: 'What is there', value: r => stateOf(r) },
  { id: 'kept', head: 'Kept for good', value: r => (r.kept ? 'kept' : '') },
]
/** What of a run can still be read. */
function stateOf(r: Row): string {
  if (r.clearedAt !== undefined) return 'its answer'
  const gone = [...(r.exchangesClearedAt === undefined ? [] : ['exchanges']), ...(r.foldedAt === undefined ? [] : ['frames'])]
  return gone.length === 0 ? 'everything' : `all but ${gone.join(' and ')}`
}
const canFold = (r: Row) => !r.kept && r.clearedAt === undefined && r.foldedAt === undefined
const due = computed(() => {
  const { runs = 0, exchanges = 0, frames = 0, uploads = 0 } = view.value?.due ?? {}
  const of = (n: number, one: string, many: string) => (n === 0 ? [] : [`${count(n)} ${n === 1 ? one : many}`])
  return [
    ...of(runs, 'run', 'runs'),
    ...of(exchanges, 'run’s exchanges', 'runs’ exchanges'),
    ...of(frames, 'run’s frames', 'runs’ frames'),
    ...of(uploads, 'upload', 'uploads'),
  ].join(', ')
})
function setRule(rule: keyof KeepingRules, text: string): true | string {
  const { [rule]: _, ...others } = present(view.value, 'the rules that are changed').rules
  const n = Number(text.trim())
  if (text.trim() !== '' && !(Number.isInteger(n) && n >= 1 && n <= 36_500))
    return `Give whole ${rule === 'foldHours' ? 'hours' : 'days'} from 1 to 36,500, or nothing: then it stays for good.`
  void guarded(async () => {
    await api('saveKeeping', {}, { rules: text.trim() === '' ? others : { ...others, [rule]: n } })
    await load()
  })
  return true
}
async function keep(row: Row, kept: boolean): Promise<void> {
  // Shown at once; what could not be kept is shown as it is.
  row.kept = kept
  await guarded(() => api('keepRun', { run: row.id }, { kept }))
  await load()
}
/** The run whose frames are about to be folded. */
const toFold = ref<Row>()
async function fold(): Promise<void> {
  const { id } = present(toFold.value, 'the run that is folded')
  toFold.value = undefined
  await guarded(async () => {
    await api('foldRun', { run: id })
    toast.add({ title: `Frames of run ${id} are being folded: its sums are made first.` })
  })
}
const clearing = ref(false)
async function clear(): Promise<void> {
  clearing.value = true
  await guarded(async () => {
    const { freedBytes } = await api('clearNow')
    toast.add({ title: `${bytes(freedBytes)} were given back.` })
    await load()
  })
  clearing.value = false
}
useHead({ title: 'What is kept · Vornak' })
</script>

<template>
  <div class="screen">
    <div class="screen-head">
      <div class="s12 q"><NuxtLink to="/runs" class="crumb">Runs</NuxtLink></div>
      <h1>What is kept</h1>
    </div>
    <div class="body">
      <ProblemNote v-if="problem" :problem="problem" />
      <div v-if="view" class="two">
        <section class="panel pad" aria-label="Runs">
          <ListTable
            v-if="view.runs.length"
            name="kept"
            :rows="view.runs"
            :columns="COLUMNS"
            :row-key="r => r.id"
            :sorted-by="{ id: 'size', desc: true }"
            height="calc(100dvh - 150px)"
            search="Find in questions"
          >
            <template #run="{ row }"><b>{{ row.id }}</b></template>
            <template #question="{ row }">
              <NuxtLink :to="`/runs/${row.id}`" class="u">{{ row.question }}</NuxtLink>
              <span v-if="row.isCalibration" class="q s12"> · calibration</span>
            </template>
            <template #ended="{ row }"><span class="q">{{ dayTime(row.endedAt, live.controllerNow) }}</span></template>
            <template #size="{ row }">{{ bytes(row.bytes) }}</template>
            <template #state="{ row }">
              <span :class="stateOf(row) === 'everything' ? 'q' : 'plantx'">{{ stateOf(row) }}</span>
              <UButton
                v-if="canFold(row)"
                v-needs="'operator'"
                size="xs"
                variant="link"
                :aria-label="`Fold frames of run ${row.id}`"
                @click="toFold = row"
              >Fold…</UButton>
            </template>
            <template #kept="{ row }">
              <UCheckbox
                :model-value="row.kept"
                :aria-label="`Keep run ${row.id} for good`"
                @update:model-value="is => keep(row, is === true)"
              />
            </template>
          </ListTable>
          <p v-else class="q">No run has ended yet.</p>
        </section>
        <div>
          <section class="panel pad" aria-label="Sizes">
            <h2>Sizes</h2>
            <dl class="sizes">
              <dt>Runs</dt><dd>{{ bytes(view.runsBytes) }}</dd>
              <dt>Uploads</dt><dd>{{ bytes(view.uploadsBytes) }}</dd>
              <dt>Everything else</dt><dd>{{ bytes(view.databaseBytes) }}</dd>
              <dt>Free on the disk</dt><dd>{{ bytes(view.freeBytes) }}</dd>
            </dl>
          </section>
          <section class="panel pad below" aria-label="How long">
            <h2>How long</h2>
            <p class="q s12">
              Empty: for good. Answers, plans, journeys and the trail stay in any case, and so does every run that is
              kept for good. It is looked after once an hour.
            </p>
            <div class="rules">
              <UFormField v-for="[rule, says, more] in RULES" :key="rule" :label="says" :help="more">
                <DraftInput
                  inputmode="numeric"
                  placeholder="for good"
                  :value="view.rules[rule] ?? ''"
                  :accept="text => setRule(rule, text)"
                />
              </UFormField>
            </div>
            <p v-if="due" class="due">
              <UButton color="error" variant="solid" :loading="clearing" @click="clear">Give back now</UButton>
              <span class="s12">{{ due }}. <b>It cannot be undone.</b></span>
            </p>
            <p v-else class="q s12">Nothing is due.</p>
          </section>
        </div>
      </div>
      <p v-else-if="!problem" class="q">Adding up…</p>
    </div>
    <UModal
      :open="toFold !== undefined"
      title="Fold frames"
      :description="toFold && `Run ${toFold.id}: ${toFold.question}`"
      @update:open="toFold = undefined"
    >
      <template #body>
        <p>
          What each generator sent second by second is deleted. Figures of every second stay, and so do windows, slices,
          distributions, exchanges and how each generator was; generators are told apart in stretches of 1,000 s from
          then on, of a short run of 100 s or 10 s.
        </p>
        <p><b>It cannot be undone.</b></p>
      </template>
      <template #footer>
        <UButton @click="toFold = undefined">Leave them</UButton>
        <UButton color="error" variant="solid" @click="fold">Fold frames</UButton>
      </template>
    </UModal>
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(0, 2.4fr) minmax(0, 1fr);
  gap: 12px;
  align-items: start;
}
.pad {
  padding: 8px 12px;
}
.below {
  margin-top: 12px;
}
h2 {
  margin: 4px 0;
}
.sizes {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 4px 12px;
  margin: 6px 0 0;
}
dd {
  margin: 0;
  text-align: right;
  font-weight: 620;
}
.rules {
  display: grid;
  gap: 8px;
  margin: 8px 0;
}
.due {
  display: flex;
  gap: 8px;
  align-items: center;
}
</style>
