<script setup lang="ts">
/** A browser's capture (HAR 1.2): what would be kept and what not, before anything is saved. */
import { lengthText, takeLength } from '~/format/durations'
import type { ApiProblem, UploadedFile } from '~~/api/views'
import type { HarChoices, HarReview } from '~~/core/formats/har-to-journey'
import { bytes } from '~~/core/values/said-figures'
import { duration } from '~/format/moments'
import { present } from '~~/core/values/present'

const file = ref<UploadedFile>()
const review = ref<HarReview>()
const choices = ref<HarChoices>()
const problem = ref<ApiProblem>()
const reading = ref(false)
const allHeaders = ref(false)

async function read(uploaded: UploadedFile): Promise<void> {
  file.value = uploaded
  choices.value = undefined
  await refresh()
}
async function refresh(): Promise<void> {
  reading.value = true
  try {
    const answer = await api('reviewHar', {}, {
      file: uploaded().id,
      ...(choices.value ? { choices: choices.value } : {}),
    })
    review.value = answer.review
    choices.value = answer.choices
    problem.value = undefined
  }
  catch (error) {
    problem.value = problemOf(error)
  }
  reading.value = false
}
const uploaded = () => present(file.value, 'the file that was uploaded')
const chosen = () => present(choices.value, 'what is chosen of the capture')
function toggle(list: 'hosts' | 'strip' | 'captures' | 'secrets', item: string): void {
  const now = chosen()[list] ?? []
  chosen()[list] = now.includes(item) ? now.filter(x => x !== item) : [...now, item]
  void refresh()
}
const capped = (text: string) =>
  takeLength(text, {}, (ms) => {
    chosen().thinkCapMs = ms
    void refresh()
  })
const named = (name: string) => {
  if (name.trim() === '') return false
  chosen().name = name.trim()
  void refresh()
  return true
}
async function make(): Promise<void> {
  try {
    const made = await api('importHar', {}, {
      file: uploaded().id,
      choices: chosen(),
    })
    await goTo(`/journeys/${made.journeyId}?target=${made.targetId}`)
  }
  catch (error) {
    problem.value = problemOf(error)
  }
}
const kept = computed(() => review.value?.steps.reduce((sum, s) => sum + s.requests, 0) ?? 0)
const headers = computed(() => review.value?.headers.filter((h, i) => allHeaders.value || i < 14) ?? [])
const sourceText = (v: HarReview['values'][number]) =>
  v.source.kind === 'json'
    ? `JSON ${v.source.path}`
    : v.source.kind === 'header'
      ? `header ${v.source.name}${v.source.left === undefined ? '' : `, after “${v.source.left}”`}`
      : v.source.kind === 'between'
        ? `between “${v.source.left}” and “${v.source.right}”`
        : v.source.kind
useHead({ title: 'From a capture · Vornak' })
const STATICS = [
  { value: 'bundle', label: 'bundle with their page: fetched together, timed as one' },
  { value: 'keep', label: 'keep as steps of their own' },
  { value: 'drop', label: 'drop: only what the application itself answers' },
]
</script>

<template>
  <div class="screen">
    <div class="screen-head">
      <div class="s12 q">
        <NuxtLink to="/journeys" class="crumb">Journeys</NuxtLink><template v-if="file">
          · {{ file.name }}, {{ bytes(file.bytes)
          }}<template v-if="review?.browser">, by {{ review.browser }}</template></template>
      </div>
      <h1>A journey from a browser’s capture</h1>
    </div>
    <div class="body">
      <ProblemNote v-if="problem" :problem="problem" class="gap" />
      <template v-if="!review || !choices">
        <FilePick
          label="A HAR file, or a zip of it with the files beside it"
          accept=".har,.json,.zip"
          @sent="read"
          @failed="
            p => {
              problem = p
            }
          "
        />
        <p class="q gap">
          In the browser: open the network panel, tick “preserve log”, walk through the pages, then save everything as
          HAR with content. Nothing is kept in the library before you have seen what it becomes.
        </p>
        <p v-if="reading" class="q">Reading the capture…</p>
      </template>
      <div v-else class="review">
        <section class="panel pad">
          <div class="top">
            <h2>Hosts</h2>
            <span class="q s12">{{ review.requests }} requests in {{ duration(review.lengthMs) }}</span>
          </div>
          <UCheckbox
            v-for="h in review.hosts"
            :key="h.host"
            :label="h.host"
            :description="`${h.requests} requests, ${bytes(h.bytes)}${h.statics ? `, ${h.statics} files` : ''}: ${choices.hosts.includes(h.host) ? 'kept' : 'dropped'}`"
            :model-value="choices.hosts.includes(h.host)"
            @update:model-value="toggle('hosts', h.host)"
          />
          <div class="top">
            <h2>Static files</h2>
            <span class="q s12">{{ review.statics }} scripts, styles, images, fonts</span>
          </div>
          <URadioGroup
            aria-label="Static files"
            :model-value="choices.statics"
            :items="STATICS"
            @update:model-value="
              value => {
                choices!.statics = value as 'bundle' | 'keep' | 'drop'
                refresh()
              }
            "
          />
          <div class="top">
            <h2>Pauses</h2>
            <span class="q s12">from the gaps, at most</span> <DraftInput
              class="few"
              :value="lengthText(choices.thinkCapMs)"
              :accept="capped"
              aria-label="Longest pause"
            />
          </div>
          <div class="top">
            <h2>Headers</h2>
            <span class="q s12">ticked are sent, the others stripped</span>
          </div>
          <div class="headers">
            <UCheckbox
              v-for="h in headers"
              :key="h.name"
              :model-value="!choices.strip.includes(h.name)"
              @update:model-value="toggle('strip', h.name)"
            ><template #label><span
              class="clip mono"
              :class="{ q: choices.strip.includes(h.name) }"
            >{{ h.name }}</span></template></UCheckbox>
          </div>
          <UButton v-if="review.headers.length > 14" size="sm" variant="link" @click="allHeaders = !allHeaders">
            {{ allHeaders ? 'Fewer' : `All ${review.headers.length}` }}
          </UButton>
        </section>
        <section class="panel pad">
          <div class="top">
            <h2>Values that look dynamic</h2>
            <span class="q s12">answered, then sent: ticked are captured</span>
          </div>
          <UCheckbox
            v-for="v in review.values"
            :key="v.name"
            :model-value="choices.captures.includes(v.name)"
            @update:model-value="toggle('captures', v.name)"
          >
            <template #label><b class="mono">{{ v.name }}</b> <span class="q mono">{{ v.value }}</span></template>
            <template #description>
              from {{ v.fromUrl }}, {{ sourceText(v) }}; sent as {{ v.sentAs }} in {{ v.sentIn.length }}
              {{ v.sentIn.length === 1 ? 'request' : 'requests' }}
            </template>
          </UCheckbox>
          <p v-if="!review.values.length" class="q s12">None was found.</p>
          <template v-if="review.credentials.length">
            <div class="top">
              <h2>Keys and passwords</h2>
              <span class="q s12">ticked become secrets of the target</span>
            </div>
            <UCheckbox
              v-for="c in review.credentials"
              :key="c.name"
              :model-value="choices.secrets?.includes(c.name)"
              @update:model-value="toggle('secrets', c.name)"
            >
              <template #label><b class="mono">{{ c.name }}</b></template>
              <template #description>
                sent as {{ c.sentAs }} in {{ c.requests }} {{ c.requests === 1 ? 'request' : 'requests' }}
              </template>
            </UCheckbox>
          </template>
          <div class="top"><h2>Not converted, or not as it was</h2></div>
          <p v-for="l in review.left" :key="l.index" class="s12 clip">
            <span class="mono">{{ l.what }}</span> <span class="q">{{ l.why }}</span>
          </p>
          <p v-for="c in review.changes" :key="c" class="s12 wrap">{{ c }}</p>
          <p v-if="!review.left.length && !review.changes.length" class="q s12">
            Everything can be, and is sent as it was.
          </p>
        </section>
        <section class="panel pad">
          <div class="top">
            <h2>Becomes</h2>
            <DraftInput class="grow" :value="choices.name" :accept="named" aria-label="Name of the journey" />
          </div>
          <ol class="steps">
            <li v-for="(s, i) in review.steps" :key="s.name">
              <span class="num q">{{ i + 1 }}</span><span class="clip"><b>{{ s.name }}</b> <span v-if="s.requests > 1" class="q">{{ s.requests }} requests together</span></span><span class="q num">{{ s.think }}</span>
            </li>
          </ol>
        </section>
      </div>
    </div>
    <footer class="sill">
      <span
        v-if="review"
        class="q"
      >{{ kept }} of {{ review.requests }} requests kept in {{ review.steps.length }} steps,
        {{ choices!.captures.length }} captures{{ reading ? ', working it out anew…' : '' }}</span><span class="spring" />
      <UButton
        v-if="review"

        @click="
          review = undefined;
          file = undefined
        "
      >
        Another capture
      </UButton>
      <UButton
        v-if="review"
        v-needs="'operator'"
        variant="solid"
        :aria-disabled="!review.steps.length"
        @click="review.steps.length && make()"
      >
        {{ review.steps.length ? 'Make the journey' : 'Keep a host first' }}
      </UButton>
    </footer>
  </div>
</template>

<style scoped>
.gap {
  margin: 8px 0;
}
.review {
  display: grid;
  grid-template-columns: minmax(0, 4fr) minmax(0, 4fr) minmax(0, 3fr);
  gap: 10px;
  align-items: start;
}
.pad {
  padding: 4px 12px 10px;
}
.top {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 30px;
}
.headers {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0 10px;
}
.wrap {
  overflow-wrap: anywhere;
}
.few {
  width: 60px;
  height: 24px;
  text-align: right;
}
.grow {
  flex: 1;
  min-width: 0;
  height: 24px;
}
.steps li {
  display: grid;
  grid-template-columns: 22px minmax(0, 1fr) auto;
  gap: 8px;
  padding: 3px 0;
  border-top: 1px solid var(--hair);
}
@media (max-width: 1100px) {
  .review {
    grid-template-columns: 1fr;
  }
}
</style>
