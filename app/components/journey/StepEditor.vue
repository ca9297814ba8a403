<script setup lang="ts">
/** The chosen step: its name and pause, and its request; of a bundle, one request at a time. */
import { lengthText, takeLength } from '~/format/durations'
import { takeNumber } from '~/format/numbers'
import { isBundle, METHODS, type Method } from '~~/core/journey/journey'
import { readThink, thinkText } from '~/format/journeys'
import { present } from '~~/core/values/present'

const store = useJourney()
// It is drawn only where a step is chosen.
const step = computed(() => store.step!)
/** What is chosen: a step, since it is edited. */
const chosen = () => present(store.chosen, 'the step that is edited')
const bundle = computed(() => (isBundle(step.value) ? step.value : undefined))
const at = computed(
  () => `${chosen().stage}/${chosen().at}${bundle.value ? `/requests/${chosen().part}` : ''}`,
)
const problemsAt = (place: string) => store.problems.filter(p => p.at === place || p.at.startsWith(`${place}/`))

const renamed = (name: string) => {
  if (name.trim() === '') return 'A step needs a name.'
  store.rename(name.trim())
  return true
}
const paused = (text: string) => {
  const think = readThink(text)
  if (think)
    store.editStep((s) => {
      s.think = think
    })
  return think ? true : `“${text}” is no pause: write 1.5 s, or 1 to 3 s, or 2 ± 0.5 s, or 2 min, or none.`
}
const partRenamed = (name: string) => {
  if (name.trim() === '') return 'A request needs a name.'
  store.editPart((p) => {
    p.name = name.trim()
  })
  return true
}
const parallel = (text: string) =>
  takeNumber(text, { min: 1, max: 64, whole: true }, n =>
    store.editStep((s) => {
      if (isBundle(s)) s.parallel = n
    }))
const addressed = (url: string) => {
  store.editPart((p) => {
    p.url = url.trim()
  })
  return true
}
const timed = (text: string) =>
  takeLength(text, { min: 1 }, ms =>
    store.editPart((p) => {
      p.timeoutMs = ms
    }))
const followed = (text: string) =>
  takeNumber(text, { min: 0, max: 20, whole: true }, n =>
    store.editPart((p) => {
      p.redirects = n
    }))
function addPart(): void {
  store.editStep((s) => {
    if (isBundle(s))
      s.requests.push({ name: `Request ${s.requests.length + 1}`, method: 'GET', url: '/', timeoutMs: 10_000 })
  })
  if (bundle.value) chosen().part = bundle.value.requests.length - 1
}
function removePart(): void {
  store.editStep((s) => {
    if (isBundle(s)) s.requests.splice(chosen().part, 1)
  })
  chosen().part = Math.max(0, chosen().part - 1)
}
</script>

<template>
  <div>
    <div class="line">
      <UFormField class="grow" label="Name">
        <DraftInput :value="step.name" :accept="renamed" />
      </UFormField>
      <UFormField label="Pause after">
        <DraftInput
          class="pause"
          :value="thinkText(step.think)"
          :accept="paused"
          title="1.5 s, or 1 to 3 s, or 2 ± 0.5 s, or 2 min, or none"
        />
      </UFormField>
      <UButton
        size="sm"
        :aria-pressed="step.off ?? false"
        @click="
          store.editStep(s => {
            s.off = !s.off
          })
        "
      >
        {{ step.off ? 'Switch on' : 'Switch off' }}
      </UButton>
      <UButton size="sm" @click="store.duplicate()">Duplicate</UButton>
      <UButton size="sm" @click="store.remove()">Remove</UButton>
    </div>
    <p v-for="p in problemsAt(`${chosen().stage}/${chosen().at}/think`)" :key="p.sentence" class="brick s12">
      {{ p.sentence }} {{ p.remedy }}
    </p>
    <template v-if="bundle">
      <div class="line">
        <UFormField label="At once">
          <DraftInput
            class="few"
            :value="bundle.parallel"
            inputmode="numeric"
            :accept="parallel"
          />
        </UFormField>
        <span class="q s12 grow">The requests go together, each on a connection of its own; the bundle is timed as one.</span>
        <UButton size="sm" @click="addPart">Add a request</UButton>
      </div>
      <div class="parts" role="tablist" aria-label="Requests of the bundle">
        <button
          v-for="(p, i) in bundle.requests"
          :key="i"
          role="tab"
          class="part"
          :class="{ here: chosen().part === i, off: p.off }"
          :aria-selected="chosen().part === i"
          @click="chosen().part = i"
        >
          {{ p.name }}
        </button>
      </div>
      <div v-if="store.part" class="line">
        <UFormField class="grow" label="Name of the request">
          <DraftInput
            :value="store.part.name"
            :accept="partRenamed"
          />
        </UFormField>
        <UButton
          size="sm"
          :aria-pressed="bundle.requests[chosen().part]?.off ?? false"
          @click="
            store.editPart(p => {
              p.off = !p.off
            })
          "
        >
          {{ bundle.requests[chosen().part]?.off ? 'Switch it on' : 'Switch it off' }}
        </UButton>
        <UButton size="sm" @click="removePart">Take it out</UButton>
      </div>
    </template>
    <template v-if="store.part">
      <div class="line">
        <UFormField label="Method">
          <PickOne
            :model-value="store.part.method"
            :items="METHODS.map(m => ({ value: m, label: m }))"
            @update:model-value="value => store.editPart(p => {
              p.method = value as Method
            })"
          />
        </UFormField>
        <UFormField class="grow" label="Address">
          <DraftInput
            class="font-mono"
            :value="store.part.url"
            :accept="addressed"
            spellcheck="false"
          />
        </UFormField>
        <UFormField label="Time-out">
          <DraftInput
            class="few"
            :value="lengthText(store.part.timeoutMs)"
            :accept="timed"
          />
        </UFormField>
        <UFormField label="Redirects">
          <DraftInput
            class="few"
            :value="store.part.redirects ?? 0"
            inputmode="numeric"
            :accept="followed"
            title="Followed at most; 0 shows the redirect itself"
          />
        </UFormField>
      </div>
      <p v-for="p in problemsAt(`${at}/url`)" :key="p.sentence" class="brick s12">{{ p.sentence }} {{ p.remedy }}</p>
      <ValueNames />
      <PairRows
        title="Query"
        :pairs="store.part.query ?? []"
        :problems="problemsAt(`${at}/query`)"
        @change="
          pairs =>
            store.editPart(p => {
              p.query = pairs
            })
        "
      />
      <PairRows
        title="Headers"
        :pairs="store.part.headers ?? []"
        :problems="problemsAt(`${at}/headers`)"
        @change="
          pairs =>
            store.editPart(p => {
              p.headers = pairs
            })
        "
      />
      <BodyForm :problems="problemsAt(`${at}/body`)" />
      <ExpectationRows :at="at" />
      <CaptureRows :at="at" />
      <p v-if="store.part.seen" class="q s12 seen">
        The capture saw status {{ store.part.seen.status }}, {{ store.part.seen.type || 'no type' }},
        {{ store.part.seen.bytes }} bytes.
      </p>
    </template>
  </div>
</template>

<style scoped>
.line {
  display: flex;
  gap: 8px;
  align-items: flex-end;
  margin-bottom: 6px;
}
.grow {
  flex: 1;
  min-width: 0;
}
.few {
  width: 62px;
  text-align: right;
}
.pause {
  width: 128px;
}
.parts {
  display: flex;
  flex-wrap: wrap;
  gap: 0 2px;
  margin-bottom: 6px;
  border-bottom: 1px solid var(--hair);
}
.part {
  padding: 3px 8px;
  font-size: 12px;
  cursor: pointer;
  border-bottom: 2px solid transparent;
  color: var(--quiet);
}
.part.here {
  border-color: var(--ink);
  color: var(--ink);
  font-weight: 600;
}
.part.off {
  text-decoration: line-through;
}
.seen {
  margin-top: 6px;
}
</style>
