<script setup lang="ts">
/** The report of a run: in the margin what it shows, beside it the page itself. Choices are kept as they are made. */
import { watchDebounced } from '@vueuse/core'
import { allSections, MOST_LOGO, type ReportWish } from '~~/core/report/wish'
import type { ReportView } from '~~/api/views'
import { takeNumber } from '~/format/numbers'
import MailDialog from '~/components/report/MailDialog.vue'
import ShareDialog from '~/components/report/ShareDialog.vue'
import ReportSheet from '~/components/report/ReportSheet.vue'
import SectionChoices from '~/components/report/SectionChoices.vue'
import { present } from '~~/core/values/present'

/** Choices are kept, and the sheet is made anew, when nothing was changed for so long, ms. */
const QUIET_MS = 400

definePageMeta({ validate: ({ params }) => /^\d{1,9}$/.test(String(params.id)) })
const route = useRoute()
const runId = Number(route.params.id)
const { problem, guarded, reading } = useGuarded()
const view = ref<ReportView>()
const wish = ref<ReportWish>()
/** It, in what can be done only once it is there. */
const wished = () => present(wish.value, 'what the report is to be')
const html = ref('')
const isMaking = ref(false)
const newest = newestOnly()

async function load(): Promise<void> {
  view.value = await api('report', { run: runId })
  const found = view.value.wish
  wish.value = { ...found, sections: allSections(found.sections) }
}
async function makeSheet(): Promise<void> {
  isMaking.value = true
  try {
    const page = await newest(() => apiText('reportHtml', { run: runId }))
    if (page !== undefined) html.value = page
  }
  finally {
    isMaking.value = false
  }
}
const readAll = () =>
  reading(async () => {
    await load()
    await makeSheet()
  })
void readAll()

/** What was changed since it was kept. */
const changed = ref(0)
function change(part: Partial<ReportWish>): void {
  if (!wish.value) return
  wish.value = { ...wish.value, ...part }
  changed.value++
}
const isKeeping = ref(false)
async function keep(wish: ReportWish): Promise<boolean> {
  isKeeping.value = true
  const kept = await guarded(() => api('setReport', { run: runId }, { wish }))
  isKeeping.value = false
  if (kept && view.value) view.value.isOwn = true
  return kept
}
watchDebounced(changed, async () => {
  if (await keep(wished())) await reading(makeSheet)
}, { debounce: QUIET_MS })

type Words = 'title' | 'subtitle' | 'organisation' | 'audience'
const WORDS: [Words, string, string][] = [
  ['title', 'Title', 'the plan’s name'],
  ['subtitle', 'Subtitle', 'the plan’s question'],
  ['organisation', 'From', 'who it comes from'],
  ['audience', 'For', 'who it is for'],
]
const sections = computed({ get: () => wish.value?.sections ?? [], set: sections => change({ sections }) })
const steps = computed({ get: () => wish.value?.steps ?? 6, set: steps => steps !== undefined && change({ steps }) })
const paper = computed({ get: () => wish.value?.paper ?? 'A4', set: paper => change({ paper }) })
const over = computed({
  get: () => (typeof wish.value?.over === 'object' ? 'window' : (wish.value?.over ?? 'judged')),
  // The list offers these alone.
  set: (over: string) => change({ over: over === 'window' ? { fromS: 0, toS: 60 } : (over as 'judged' | 'whole') }),
})
const edges = computed(() => (typeof wish.value?.over === 'object' ? wish.value.over : undefined))
function setEdge(edge: 'fromS' | 'toS', text: string): true | string {
  const { fromS, toS } = present(edges.value, 'the window of the report')
  const bounds = edge === 'fromS' ? { min: 0, max: toS - 1 } : { min: fromS + 1, max: 1e7 }
  return takeNumber(text.replace(/s$/, ''), bounds, n => change({ over: { fromS, toS, [edge]: Math.round(n) } }))
}

async function takeLogo(file: File): Promise<void> {
  const uri = await new Promise<string>((resolve, reject) => {
    const reader = new FileReader()
    reader.onload = () => resolve(String(reader.result))
    reader.onerror = () => reject(new Error(reader.error?.message))
    reader.readAsDataURL(file)
  })
  if (uri.length > MOST_LOGO) {
    problem.value = { code: 'report', sentence: `${file.name} is larger than 300 kB.`, remedy: 'Choose a smaller picture.' }
    return
  }
  // One that cannot be read does not stay: everything else could not be kept with it.
  if (await keep({ ...wished(), logo: uri })) change({ logo: uri })
}

const templateName = ref('')
/** What is shown: as usual, one that is kept, or this run's own choice. */
const from = computed({
  get: () => (view.value?.isOwn ? 'own' : 'usual'),
  set: (chosen: string) => void takeFrom(chosen),
})
const usual = computed(() => view.value?.templates.find(t => t.isUsual))
const offered = computed(() => [
  { value: 'usual', label: usual.value ? `as usual: ${usual.value.name}` : 'as usual' },
  ...(view.value?.isOwn ? [{ value: 'own', label: 'as chosen for this run' }] : []),
  ...(view.value?.templates ?? []).map(t => ({ value: `kept ${t.name}`, label: `as “${t.name}”` })),
])
async function takeFrom(chosen: string): Promise<void> {
  if (chosen === 'own') return
  const kept = view.value?.templates.find(t => `kept ${t.name}` === chosen)
  if (kept) {
    const { title, subtitle } = wish.value ?? {}
    change({ ...kept.wish, sections: allSections(kept.wish.sections), title, subtitle })
    return
  }
  if (await guarded(() => api('setReport', { run: runId }, {}))) {
    await readAll()
  }
}
async function keepAs(isUsual: boolean): Promise<void> {
  const template = templateName.value.trim()
  if (!template || !wish.value) return
  if (await guarded(() => api('saveReportTemplate', { template }, { wish: wished(), isUsual }))) {
    view.value = await api('report', { run: runId })
    templateName.value = ''
  }
}
async function forget(template: string): Promise<void> {
  if (await guarded(() => api('removeReportTemplate', { template }))) view.value = await api('report', { run: runId })
}
const files = [
  { operation: 'reportMarkdown', label: 'Markdown' },
  { operation: 'reportHtml', label: 'One file (HTML)' },
] as const
const isMailing = useOpenInAddress('open', 'mail')
const isSharing = useOpenInAddress('open', 'share')
const isSettling = computed(() => isKeeping.value || isMaking.value)
useHead({ title: `Report of run ${runId} · Vornak` })
</script>

<template>
  <div class="screen">
    <div class="screen-head">
      <div class="s12 q">
        <NuxtLink to="/runs" class="crumb">Runs</NuxtLink> · <NuxtLink :to="`/runs/${runId}`" class="crumb">run {{ runId }}</NuxtLink>
      </div>
      <h1>Report of run {{ runId }}</h1>
    </div>
    <div class="body two">
      <section class="margin" aria-label="What it shows">
        <ProblemNote v-if="problem" :problem="problem" />
        <template v-if="wish">
          <UFormField label="Made" orientation="horizontal">
            <PickOne v-model="from" size="sm" aria-label="Made as" :items="offered" />
          </UFormField>
          <UFormField v-for="[key, label, empty] in WORDS" :key="key" :label="label" orientation="horizontal">
            <UInput
              :model-value="wish[key] ?? ''"
              size="sm"
              class="words"
              :maxlength="200"
              :placeholder="empty"
              @update:model-value="change({ [key]: String($event) })"
            />
          </UFormField>
          <UFormField label="Logo" orientation="horizontal">
            <div class="line">
              <FileButton
                :label="wish.logo ? 'Another' : 'Choose a PNG or SVG'"
                accept="image/png,image/svg+xml"
                says="Logo of the report"
                @chosen="takeLogo"
              />
              <UButton v-if="wish.logo" size="sm" variant="link" @click="change({ logo: undefined })">None</UButton>
            </div>
          </UFormField>
          <UFormField label="Figures of" orientation="horizontal">
            <PickOne
              v-model="over"
              size="sm"
              aria-label="Figures of"
              :items="[
                { value: 'judged', label: 'the highest level judged' },
                { value: 'whole', label: 'the whole run' },
                { value: 'window', label: 'a window' },
              ]"
            />
          </UFormField>
          <div v-if="edges" class="line s12">
            <label>from <DraftInput
              class="edge"
              aria-label="From second"
              size="xs"
              :value="edges.fromS"
              inputmode="numeric"
              :accept="text => setEdge('fromS', text)"
            /> s</label>
            <label>to <DraftInput
              class="edge"
              aria-label="To second"
              size="xs"
              :value="edges.toS"
              inputmode="numeric"
              :accept="text => setEdge('toS', text)"
            /> s</label>
          </div>
          <UFormField label="Paper" orientation="horizontal">
            <PickOne v-model="paper" size="sm" aria-label="Paper" :items="[{ value: 'A4', label: 'A4' }, { value: 'letter', label: 'Letter' }]" />
          </UFormField>
          <h2>Sections, after the answer</h2>
          <p class="q s12">Switch, drag, or <UKbd>Alt</UKbd> <UKbd>↑</UKbd> <UKbd>↓</UKbd>. Figures are not edited.</p>
          <SectionChoices v-model="sections" v-model:steps="steps" />
          <h2>Keep these choices</h2>
          <div class="line">
            <UInput
              v-model="templateName"
              size="sm"
              :maxlength="80"
              placeholder="a name, such as For the registrar"
              aria-label="Name of the template"
              class="words"
            />
            <UButton size="sm" :disabled="templateName.trim() === ''" @click="keepAs(false)">Keep</UButton>
            <UButton size="sm" :disabled="templateName.trim() === ''" @click="keepAs(true)">as usual</UButton>
          </div>
          <ul v-if="view?.templates.length" class="kept">
            <li v-for="t in view.templates" :key="t.name" class="line s12">
              <span class="clip">{{ t.name }}</span><span v-if="t.isUsual" class="q">usual</span><span class="spring" />
              <UButton size="xs" variant="link" :aria-label="`Forget ${t.name}`" @click="forget(t.name)">Forget</UButton>
            </li>
          </ul>
        </template>
      </section>
      <ReportSheet v-if="html" :html="html" :title="`Report of run ${runId}`" />
      <p v-else class="q wait" role="status">{{ problem ? '' : 'Gathering figures, and setting the page…' }}</p>
    </div>
    <footer class="sill">
      <span class="q" role="status">{{ isKeeping ? 'Keeping…' : isMaking ? 'Setting the page…' : html ? 'What is kept here is what files and links show.' : '' }}</span>
      <span class="spring" />
      <UButton
        v-for="f in html ? files : []"
        :key="f.operation"
        :href="hrefTo(f.operation, { run: runId })"
        download
        external
        :disabled="isSettling"
      >
        {{ f.label }}
      </UButton>
      <UButton v-if="html" @click="isMailing = true">Mail</UButton>
      <UButton v-if="html" v-needs="'operator'" @click="isSharing = true">Share</UButton>
      <UButton
        v-if="html"
        :href="hrefTo('reportPdf', { run: runId })"
        variant="solid"
        download
        external
        :disabled="isSettling"
      >PDF</UButton>
    </footer>
    <MailDialog v-if="isMailing" v-model:open="isMailing" :run-id="runId" />
    <ShareDialog v-if="isSharing" v-model:open="isSharing" :thing="{ kind: 'report', runs: [runId] }" />
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template: minmax(0, 1fr) / 320px minmax(0, 1fr);
  gap: 12px;
}
.margin {
  overflow: auto;
  padding: 2px 10px 12px 2px;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 5px;
  align-content: start;
}
h2 {
  margin-top: 10px;
}
.words {
  width: 210px;
}
.edge {
  width: 64px;
}
.line {
  display: flex;
  gap: 8px;
  align-items: center;
}
.spring {
  flex: 1;
}
.margin > :deep([data-orientation=horizontal]) {
  display: grid;
  grid-template-columns: 66px minmax(0, 1fr);
  align-items: center;
}
.kept {
  list-style: none;
  padding: 0;
  margin: 0;
}
.wait {
  padding: 24px;
}
@media (max-width: 900px) {
  .two {
    grid-template: auto 70vh / minmax(0, 1fr);
  }
}
</style>
