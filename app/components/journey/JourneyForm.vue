<script setup lang="ts">
/** What holds for the whole journey: identity, rhythm, spans, feeds, tags and notes. */
import { lengthText, takeLength } from '~/format/durations'
import { STAGES, type Deal, type FeedUse, type Span } from '~~/core/journey/journey'
import { seconds } from '~/format/journeys'

const store = useJourney()
// It is drawn for such a journey alone.
const journey = computed(() => store.http!)
const steps = computed(() => STAGES.flatMap(s => journey.value[s].map(x => x.name)))
const edit = (change: (j: typeof journey.value) => void) => {
  store.edit((j) => {
    if (j.kind === 'http') change(j)
  })
  return true
}
const pace = (s: number) =>
  edit((j) => {
    if (s > 0) j.pacingMs = Math.round(s * 1000)
    else delete j.pacingMs
  })
const paced = (text: string) => (text.trim() === '' ? pace(0) : takeLength(text, {}, pace))
const spans = computed(() => journey.value.spans ?? [])
const setSpan = (i: number, more: Partial<Span>) =>
  edit((j) => {
    j.spans = spans.value.map((s, n) => (n === i ? { ...s, ...more } : s))
  })
/** Over the round, or what stage there is: a span stays within one. */
function addSpan(): void {
  const stage =
    journey.value.round.length > 0 ? journey.value.round : STAGES.map(s => journey.value[s]).find(s => s.length > 0)
  if (stage)
    edit((j) => {
      j.spans = [
        ...spans.value,
        {
          name: `Span ${spans.value.length + 1}`,
          from: stage[0]!.name,
          to: stage[stage.length - 1]!.name,
          withThink: false,
        },
      ]
    })
}
const feeds = computed(() => journey.value.feeds ?? [])
const setFeed = (i: number, more: Partial<FeedUse>) =>
  edit((j) => {
    j.feeds = feeds.value.map((f, n) => {
      if (n !== i) return f
      const next = { ...f, ...more }
      // Rows that are dealt once cannot begin again.
      return next.deal === 'once' && next.atEnd === 'again' ? { ...next, atEnd: 'leave' } : next
    })
  })
const addFeed = () =>
  edit((j) => {
    const feed = store.view?.feeds[0]
    if (feed)
      j.feeds = [
        ...feeds.value,
        { feed: feed.id, as: feed.id.replace(/[^a-z0-9]+/g, '_'), deal: 'inOrder', per: 'pass', atEnd: 'again' },
      ]
  })
const DEALS: Record<Deal, string> = { inOrder: 'in order', atRandom: 'at random', once: 'each row once' }
const problemsAt = (at: string) => store.problems.filter(p => p.at === at)
// It is the list’s own event.
const value = (event: Event) => (event.target as HTMLSelectElement).value
</script>

<template>
  <div>
    <section class="grid">
      <UFormField label="Identity">
        <PickOne
          :model-value="journey.identity"
          :items="[
            { value: 'kept', label: 'kept: the same user, pass after pass' },
            { value: 'fresh', label: 'fresh: each pass is somebody new' },
          ]"
          @update:model-value="value => edit(j => {
            j.identity = value as 'kept' | 'fresh'
          })"
        />
      </UFormField>
      <UFormField label="Rhythm: a pass every">
        <DraftInput
          :value="journey.pacingMs ? lengthText(journey.pacingMs) : ''"
          :accept="paced"
          placeholder="none"
        />
      </UFormField>
      <UFormField label="After a failed step">
        <PickOne
          :model-value="journey.afterFailure ?? 'goOn'"
          :items="[
            { value: 'goOn', label: 'go on with the next' },
            { value: 'newPass', label: 'begin a new pass' },
          ]"
          @update:model-value="value => edit(j => {
            j.afterFailure = value as 'goOn' | 'newPass'
          })"
        />
      </UFormField>
      <UFormField label="HTTP version">
        <PickOne
          :model-value="journey.http2 ? '2' : '1'"
          :items="[
            { value: '1', label: 'HTTP/1.1' },
            { value: '2', label: 'HTTP/2 where it is offered over TLS' },
          ]"
          @update:model-value="value => edit(j => {
            j.http2 = value === '2'
          })"
        />
      </UFormField>
      <UFormField label="Tags, with commas">
        <DraftInput
          :value="(journey.tags ?? []).join(', ')"
          :accept="
            text =>
              edit(j => {
                j.tags = text
                  .split(',')
                  .map(t => t.trim())
                  .filter(Boolean)
                  .slice(0, 20)
              })
          "
        />
      </UFormField>
    </section>
    <p class="q s12">
      {{
        journey.identity === 'kept'
          ? 'Cookies, connections and TLS sessions stay from pass to pass.'
          : 'Cookies, connections and captured values go at the end of each pass; opening and closing belong to every pass.'
      }}<template v-if="journey.pacingMs">
        A pass that is late begins at once; how late it was is counted from when it should have begun.</template>
    </p>
    <section>
      <div class="top">
        <h2>Spans</h2>
        <span class="q s12">consecutive steps timed as one; the whole round is always one</span><span class="spring" /><UButton
          v-if="steps.length"
          size="sm"
          variant="link"
          @click="addSpan"
        >Add a span</UButton>
      </div>
      <div v-for="(s, i) in spans" :key="i" class="row">
        <DraftInput
          :value="s.name"
          :accept="name => name.trim() !== '' && setSpan(i, { name: name.trim() })"
          aria-label="Name of the span"
        />
        <UFormField label="from" orientation="horizontal">
          <PickOne
            :model-value="s.from"
            :items="steps.map(n => ({ value: n, label: n }))"
            @update:model-value="value => setSpan(i, { from: value })"
          />
        </UFormField>
        <UFormField label="to" orientation="horizontal">
          <PickOne
            :model-value="s.to"
            :items="steps.map(n => ({ value: n, label: n }))"
            @update:model-value="value => setSpan(i, { to: value })"
          />
        </UFormField>
        <UCheckbox
          :model-value="s.withThink"
          label="with pauses"
          @update:model-value="setSpan(i, { withThink: $event === true })"
        />
        <UButton
          size="sm"
          variant="link"
          @click="
            edit(j => {
              j.spans = spans.filter((_, n) => n !== i)
            })
          "
        >
          Remove
        </UButton>
        <p v-for="p in problemsAt(`spans/${i}`)" :key="p.sentence" class="brick s12">{{ p.sentence }} {{ p.remedy }}</p>
      </div>
    </section>
    <section>
      <div class="top">
        <h2>Feeds</h2>
        <span class="q s12">rows of test data, named in texts</span><span class="spring" /><UButton
          v-if="!store.view?.feeds.length"
          to="/feeds"
          size="sm"
          variant="link"
        >Upload a feed</UButton><UButton v-else size="sm" variant="link" @click="addFeed">Use a feed</UButton>
      </div>
      <div v-for="(f, i) in feeds" :key="i" class="row">
        <PickOne
          :model-value="f.feed"
          aria-label="Feed"
          :items="store.view!.feeds.map(x => ({ value: x.id, label: x.name }))"
          @update:model-value="value => setFeed(i, { feed: value })"
        />
        <UFormField label="as" orientation="horizontal">
          <DraftInput
            class="short font-mono"
            :value="f.as"
            :accept="as => /^[A-Za-z_][\w-]*$/.test(as) && setFeed(i, { as })"
          />
        </UFormField>
        <PickOne
          :model-value="f.deal"
          aria-label="How rows are dealt"
          :items="Object.entries(DEALS).map(([d, w]) => ({ value: d, label: w }))"
          @update:model-value="value => setFeed(i, { deal: value as Deal })"
        />
        <PickOne
          :model-value="f.per"
          aria-label="A row per user or per pass"
          :items="[{ value: 'user', label: 'per user' }, { value: 'pass', label: 'per pass' }]"
          @update:model-value="value => setFeed(i, { per: value as 'user' | 'pass' })"
        />
        <UFormField v-if="f.deal !== 'atRandom'" label="then" orientation="horizontal">
          <PickOne
            :model-value="f.atEnd"
            aria-label="When the rows run out"
            :items="[
              ...(f.deal !== 'once' ? [{ value: 'again', label: 'from the first again' }] : []),
              { value: 'leave', label: 'the user leaves' },
              { value: 'fail', label: 'requests fail unsent' },
            ]"
            @update:model-value="value => setFeed(i, { atEnd: value as FeedUse['atEnd'] })"
          />
        </UFormField>
        <UButton
          size="sm"
          variant="link"
          @click="
            edit(j => {
              j.feeds = feeds.filter((_, n) => n !== i)
            })
          "
        >
          Remove
        </UButton>
        <p v-for="p in problemsAt(`feeds/${i}`)" :key="p.sentence" class="brick s12">{{ p.sentence }} {{ p.remedy }}</p>
      </div>
      <p v-if="feeds.some(f => f.deal === 'once')" class="q s12">
        Rows dealt once are cut into slices: no two generators, workers or users ever hold the same. A rehearsal and a
        try take the last rows.
      </p>
    </section>
    <section>
      <div class="top"><h2>Notes</h2></div>
      <UTextarea
        class="notes"
        :rows="4"
        :model-value="journey.notes ?? ''"
        aria-label="Notes"
        @change="
          edit(j => {
            j.notes = ($event.target as HTMLTextAreaElement).value
          })
        "
      />
    </section>
    <p v-if="journey.pacingMs" class="q s12">
      At most {{ Math.floor(3_600_000 / journey.pacingMs) }} passes an hour and user, one every
      {{ seconds(journey.pacingMs) }}.
    </p>
  </div>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 6px 10px;
  margin-bottom: 6px;
}
.top {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 28px;
  margin-top: 4px;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 6px;
  align-items: center;
  margin-bottom: 4px;
}
.short {
  width: 80px;
}
.spring {
  flex: 1;
}
.notes {
  width: 100%;
  height: auto;
  padding: 6px 8px;
}
</style>
