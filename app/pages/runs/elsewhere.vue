<script setup lang="ts">
/** Results that other programs measured: files become a run, or programs tell of one while they measure. */
import type { UploadedFile } from '~~/api/views'
import { FORM_WORDS } from '~~/core/elsewhere/reading'
import type { Recognised } from '~~/core/elsewhere/recognise'
import { stemOf, type ReadingTemplate, type Scanned, type WantedFile } from '~~/core/elsewhere/results'
import { count } from '~~/core/values/said-figures'
import ReadingForm from '~/components/elsewhere/ReadingForm.vue'
import ScannedFiles from '~/components/elsewhere/ScannedFiles.vue'
import StreamsForm from '~/components/elsewhere/StreamsForm.vue'

interface Chosen extends WantedFile {
  seen: Recognised
}

const live = useLive()
const { problem, guarded } = useGuarded()
const { found: templates, load: loadTemplates } = useGuarded().read('readingTemplates')
const files = ref<Chosen[]>([])
const shown = ref(0)
interface Draft { name: string, build: string, mark: string, objectives: string, unnamedDoubles: '' | 'keep' | 'leaveOut' }
const draft = reactive<Draft>({ name: '', build: '', mark: '', objectives: '', unnamedDoubles: '' })
/** Number of the run they join. */
const joinsTyped = useInAddress('joins')
const joins = computed({
  get: () => Number(joinsTyped.value) || 0,
  set: (id) => {
    joinsTyped.value = id > 0 ? String(id) : undefined
  },
})
const { found: runs } = useGuarded().read('runs', {})
const joinable = computed(() => [
  { value: 0, label: 'no run: they are one of their own' },
  ...(runs.value ?? [])
    .filter(r => r.verdict !== undefined && !r.calibrates)
    .map(r => ({ value: r.id, label: `${r.id} · ${r.name || r.question}` })),
])
const scanned = ref<Scanned>()
const busy = ref<'scan' | 'import'>()
/** Rows that were seen of what is being read. */
const rows = ref(0)
live.onNews((news) => {
  if (news.kind === 'resultRows') rows.value = news.rows
})

async function sent(uploaded: UploadedFile): Promise<void> {
  await guarded(async () => {
    if (/\.(tgz|tar\.gz)$/i.test(uploaded.name)) {
      const line = await api('openArchive', {}, { file: uploaded.id })
      return void (await goTo(`/runs/${line.id}`))
    }
    const seen = await api('recogniseResults', {}, { file: uploaded.id })
    const stem = stemOf(uploaded.name)
    const { id, name } = uploaded
    files.value.push({ file: id, name, reading: seen.reading, place: stem.slice(0, 80), shiftMs: 0, seen })
    shown.value = files.value.length - 1
    if (draft.name === '') draft.name = stem
    scanned.value = undefined
  })
}
function take(at: number, change: Partial<WantedFile>): void {
  files.value[at] = { ...files.value[at]!, ...change }
  scanned.value = undefined
}
function remove(at: number): void {
  files.value.splice(at, 1)
  shown.value = Math.max(0, Math.min(shown.value, files.value.length - 1))
  scanned.value = undefined
}
const wanted = computed<WantedFile[]>(() => files.value.map(({ seen: _, ...f }) => f))
/** Why a file cannot be read as it is said. */
function lacking({ reading: { form, columns }, place }: WantedFile): string | undefined {
  if (place.trim() === '') return 'It needs a location.'
  if (form !== 'csv' && form !== 'jsonLines') return undefined
  return columns.time === undefined ? 'Say which column is the time.' : undefined
}
const isReady = computed(() => files.value.length > 0 && files.value.every(f => lacking(f) === undefined))
const readable = computed(() => scanned.value?.files.reduce((sum, f) => sum + f.rows, 0) ?? 0)
const mustAsk = computed(() => (scanned.value?.doubles.unnamed ?? 0) > 0 && draft.unnamedDoubles === '')
const steps = computed(() => [...new Set(scanned.value?.files.flatMap(f => f.steps.map(s => s.name)) ?? [])])
const marks = computed(() => [{ value: '', label: 'as each file says' }, ...steps.value.map(s => ({ value: s, label: `the first “${s}” of each is one moment` }))])

async function look(): Promise<void> {
  busy.value = 'scan'
  rows.value = 0
  await guarded(async () => {
    scanned.value = await api('scanResults', {}, { files: wanted.value, ...(draft.mark ? { mark: draft.mark } : {}) })
  })
  busy.value = undefined
}
async function make(): Promise<void> {
  busy.value = 'import'
  rows.value = 0
  await guarded(async () => {
    const line = await api('importResults', {}, {
      name: draft.name.trim(),
      files: wanted.value,
      ...(draft.mark ? { mark: draft.mark } : {}),
      ...(joins.value > 0 ? { joins: joins.value } : {}),
      ...(draft.unnamedDoubles ? { unnamedDoubles: draft.unnamedDoubles } : {}),
      ...(draft.build.trim() ? { build: draft.build.trim() } : {}),
      objectives: draft.objectives.split('\n').map(o => o.trim()).filter(o => o !== ''),
    })
    await goTo(`/runs/${line.id}`)
  })
  busy.value = undefined
}
async function keep(name: string): Promise<void> {
  await guarded(() => api('keepReadingTemplate', {}, { name, reading: files.value[shown.value]!.reading }))
  await loadTemplates()
}
async function forget({ name }: ReadingTemplate): Promise<void> {
  await guarded(() => api('removeReadingTemplate', {}, { name }))
  await loadTemplates()
}
useHead({ title: 'Runs from elsewhere · Vornak' })
</script>

<template>
  <div class="screen">
    <div class="screen-head"><h1>Measured elsewhere</h1><span class="q s12">what other programs measured becomes a run, or joins one, as claimed: nobody here saw it</span></div>
    <div class="body two">
      <div class="left">
        <FilePick
          label="A file of results"
          accept="*"
          @sent="sent"
          @failed="p => { problem = p }"
        />
        <p class="q s12">{{ Object.values(FORM_WORDS).join(', ') }}; also packed by gzip. Several files become one run. The archive of a run (.tgz) is opened as that run.</p>
        <ProblemNote v-if="problem && !(files.length && problem.faults)" :problem="problem" />
        <div v-if="files.length" class="panel">
          <div v-for="(f, i) in files" :key="i" class="row" :class="{ here: i === shown }">
            <UButton variant="ghost" class="pick" :aria-current="i === shown" @click="shown = i">
              <span class="clip">
                <b>{{ f.name }}</b><br><span class="q s12">{{ FORM_WORDS[f.reading.form] }}, at {{ f.place }}</span>
                <template v-if="lacking(f)"><br><span class="brick s12">{{ lacking(f) }}</span></template>
              </span>
            </UButton>
            <UButton size="xs" variant="link" :aria-label="`Leave ${f.name} out`" @click="remove(i)">leave out</UButton>
          </div>
        </div>
        <FaultForm v-if="files.length" :problem="problem?.faults && problem" class="panel form" @submit="make">
          <UFormField name="name" label="Name of the run" hint="runs of one name are repeats of each other"><UInput v-model="draft.name" required maxlength="200" /></UFormField>
          <UFormField name="build" label="Build of the target"><UInput v-model="draft.build" maxlength="100" placeholder="not said" /></UFormField>
          <UFormField label="Joined to" :hint="joins > 0 ? `run ${joins} stays as it is` : undefined"><PickOne v-model="joins" :items="joinable" /></UFormField>
          <UFormField v-if="files.length > 1 || joins > 0" label="Clocks"><PickOne v-model="draft.mark" :items="marks" :disabled="steps.length === 0" /></UFormField>
          <UFormField name="objectives" label="Objectives" hint="one a line, or none"><UTextarea v-model="draft.objectives" :rows="2" placeholder="p95 at most 500 ms" /></UFormField>
          <UFormField v-if="scanned && scanned.doubles.unnamed > 0" :label="`${count(scanned.doubles.unnamed)} rows are equal in several files and name no user`">
            <PickOne v-model="draft.unnamedDoubles" :items="[{ value: '', label: 'choose' }, { value: 'keep', label: 'they are different requests: all count' }, { value: 'leaveOut', label: 'they are the same: each counts once' }]" />
          </UFormField>
          <div class="acts">
            <UButton :disabled="!isReady || busy !== undefined" @click="look">{{ busy === 'scan' ? `Looking… ${count(rows)} rows` : 'Look through' }}</UButton>
            <UButton variant="solid" type="submit" :disabled="!scanned || readable === 0 || mustAsk || draft.name.trim() === '' || busy !== undefined">
              {{ busy === 'import' ? `Making the run… ${count(rows)} rows` : 'Make it a run' }}
            </UButton>
          </div>
        </FaultForm>
        <StreamsForm />
      </div>
      <div class="right">
        <ScannedFiles v-if="scanned" :scanned="scanned" />
        <ReadingForm
          v-if="files[shown]"
          :key="`${shown} ${files[shown]!.file}`"
          :file="files[shown]!"
          :seen="files[shown]!.seen"
          :templates="templates ?? []"
          @change="take(shown, $event)"
          @keep="keep"
          @forget="forget"
        />
        <section v-else class="panel pad">
          <h2>What is taken</h2>
          <p>One row, line or entry for each request: when, which step, how long, right or wrong. What else it says is taken where it is known: status, bytes, users, location, message.</p>
          <p class="q">Joined to a run of Vornak’s own they are a new run with its requests beside theirs, second by second; that run stays as it is, and its answer its own.</p>
          <p class="q">Rows that stand for many requests are means: they are kept apart, for no percentile can be made of them. Rows that stand in several files are counted once where they name their user; else you are asked.</p>
        </section>
      </div>
    </div>
    <footer class="sill"><span class="q">Percentiles are made of every single request, as in runs of one’s own; the ledger calls its counts claimed.</span></footer>
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: 400px minmax(0, 1fr);
  gap: 12px;
  align-items: start;
}
.left,
.right {
  display: grid;
  gap: 8px;
  min-width: 0;
}
.form {
  display: grid;
  gap: 6px;
  padding: 8px 12px;
}
.row {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  align-items: center;
  padding: 6px 10px;
  border-bottom: 1px solid var(--hair);
}
.row:last-child {
  border-bottom: 0;
}
.row.here {
  background: var(--sel);
  box-shadow: inset 2px 0 var(--act);
}
.pick {
  min-width: 0;
  flex: 1;
  height: auto;
  justify-content: start;
  text-align: left;
}
.acts {
  display: flex;
  gap: 8px;
  justify-content: end;
  margin-top: 4px;
}
.pad {
  padding: 6px 12px 10px;
}
.pad p {
  margin-top: 6px;
}
</style>
