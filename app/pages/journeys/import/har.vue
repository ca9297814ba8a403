<script setup lang="ts">
/** A browser's capture (HAR 1.2): what would be kept and what not, before anything is saved. */
import type { ApiProblem, UploadedFile } from '~~/api/views'
import type { HarChoices, HarReview } from '~~/core/formats/har-to-journey'
import { bytes } from '~/format/figures'
import { duration } from '~/format/moments'

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
    const answer = await api<{ review: HarReview, choices: HarChoices }>('imports/har', 'POST', {
      file: file.value!.id,
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
function toggle(list: 'hosts' | 'strip' | 'captures' | 'secrets', item: string): void {
  const now = choices.value![list] ?? []
  choices.value![list] = now.includes(item) ? now.filter(x => x !== item) : [...now, item]
  void refresh()
}
const capped = (text: string) => {
  const s = Number(text.replace(',', '.'))
  if (!(s >= 0)) return false
  choices.value!.thinkCapMs = Math.round(s * 1000)
  void refresh()
  return true
}
const named = (name: string) => {
  if (name.trim() === '') return false
  choices.value!.name = name.trim()
  void refresh()
  return true
}
async function make(): Promise<void> {
  try {
    const made = await api<{ journeyId: string, targetId: string }>('imports/har-journey', 'POST', {
      file: file.value!.id,
      choices: choices.value!,
    })
    await navigateTo(`/journeys/${made.journeyId}?target=${made.targetId}`)
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
</script>

<template>
  <div class="screen">
    <div class="screen-head">
      <div class="s12 q">
        <NuxtLink to="/journeys">Journeys</NuxtLink
        ><template v-if="file">
          · {{ file.name }}, {{ bytes(file.bytes)
          }}<template v-if="review?.browser">, by {{ review.browser }}</template></template
        >
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
          <label v-for="h in review.hosts" :key="h.host" class="check"
          ><input type="checkbox" :checked="choices.hosts.includes(h.host)" @change="toggle('hosts', h.host)"><span
            class="clip"
          ><b>{{ h.host }}</b> <span class="q"
          >{{ h.requests }} requests, {{ bytes(h.bytes)
          }}<template v-if="h.statics">, {{ h.statics }} files</template></span
          ></span
          ><span class="q s12">{{ choices.hosts.includes(h.host) ? 'kept' : 'dropped' }}</span></label
          >
          <div class="top">
            <h2>Static files</h2>
            <span class="q s12">{{ review.statics }} scripts, styles, images, fonts</span>
          </div>
          <label
            v-for="[value, word] in [
              ['bundle', 'bundle with their page: fetched together, timed as one'],
              ['keep', 'keep as steps of their own'],
              ['drop', 'drop: only what the application itself answers'],
            ] as const"
            :key="value"
            class="check"
          ><input
            type="radio"
            name="statics"
            :checked="choices.statics === value"
            @change="
              choices.statics = value;
              refresh()
            "
          ><span>{{ word }}</span></label
          >
          <div class="top">
            <h2>Pauses</h2>
            <span class="q s12">from the gaps, at most</span> <DraftInput
              class="field few"
              :value="choices.thinkCapMs / 1000"
              :accept="capped"
              aria-label="Longest pause, s"
            /> <span class="q s12">s</span>
          </div>
          <div class="top">
            <h2>Headers</h2>
            <span class="q s12">ticked are sent, the others stripped</span>
          </div>
          <div class="headers">
            <label v-for="h in headers" :key="h.name" class="check s12"
            ><input
              type="checkbox"
              :checked="!choices.strip.includes(h.name)"
              @change="toggle('strip', h.name)"
            ><span class="clip mono" :class="{ q: choices.strip.includes(h.name) }">{{ h.name }}</span></label
            >
          </div>
          <button v-if="review.headers.length > 14" class="btn link sm" @click="allHeaders = !allHeaders">
            {{ allHeaders ? 'Fewer' : `All ${review.headers.length}` }}
          </button>
        </section>
        <section class="panel pad">
          <div class="top">
            <h2>Values that look dynamic</h2>
            <span class="q s12">answered, then sent: ticked are captured</span>
          </div>
          <label v-for="v in review.values" :key="v.name" class="check"
          ><input
            type="checkbox"
            :checked="choices.captures.includes(v.name)"
            @change="toggle('captures', v.name)"
          ><span class="clip"
          ><b class="mono">{{ v.name }}</b> <span class="q mono">{{ v.value }}</span><br><span class="q s12"
          >from {{ v.fromUrl }}, {{ sourceText(v) }}; sent as {{ v.sentAs }} in {{ v.sentIn.length }}
            {{ v.sentIn.length === 1 ? 'request' : 'requests' }}</span
          ></span
          ></label
          >
          <p v-if="!review.values.length" class="q s12">None was found.</p>
          <template v-if="review.credentials.length">
            <div class="top">
              <h2>Keys and passwords</h2>
              <span class="q s12">ticked become secrets of the target</span>
            </div>
            <label v-for="c in review.credentials" :key="c.name" class="check"
            ><input
              type="checkbox"
              :checked="choices.secrets?.includes(c.name)"
              @change="toggle('secrets', c.name)"
            ><span class="clip"
            ><b class="mono">{{ c.name }}</b> <span class="q s12"
            >sent as {{ c.sentAs }} in {{ c.requests }} {{ c.requests === 1 ? 'request' : 'requests' }}</span
            ></span
            ></label
            >
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
            <DraftInput class="field grow" :value="choices.name" :accept="named" aria-label="Name of the journey" />
          </div>
          <ol class="steps">
            <li v-for="(s, i) in review.steps" :key="s.name">
              <span class="num q">{{ i + 1 }}</span
              ><span class="clip"
              ><b>{{ s.name }}</b> <span v-if="s.requests > 1" class="q">{{ s.requests }} requests together</span></span
              ><span class="q num">{{ s.think }}</span>
            </li>
          </ol>
        </section>
      </div>
    </div>
    <footer class="sill">
      <span v-if="review" class="q"
      >{{ kept }} of {{ review.requests }} requests kept in {{ review.steps.length }} steps,
        {{ choices!.captures.length }} captures{{ reading ? ', working it out anew…' : '' }}</span
      ><span class="spring" />
      <button
        v-if="review"
        class="btn"
        @click="
          review = undefined;
          file = undefined
        "
      >
        Another capture
      </button>
      <button
        v-if="review"
        class="btn act"
        :aria-disabled="!review.steps.length"
        @click="review.steps.length && make()"
      >
        {{ review.steps.length ? 'Make the journey' : 'Keep a host first' }}
      </button>
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
.check {
  display: flex;
  gap: 8px;
  align-items: baseline;
  padding: 3px 0;
  border-top: 1px solid var(--hair);
}
.check > .clip {
  flex: 1;
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
