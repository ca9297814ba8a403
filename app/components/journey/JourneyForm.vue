<script setup lang="ts">
/** What holds for the whole journey: identity, rhythm, spans, feeds, tags and notes. */
import { STAGES, type Deal, type FeedUse, type Span } from '~~/core/journey/journey'
import { seconds } from '~/format/journeys'

const store = useJourney()
const journey = computed(() => store.http!)
const steps = computed(() => STAGES.flatMap(s => journey.value[s].map(x => x.name)))
const edit = (change: (j: typeof journey.value) => void) => {
  store.edit((j) => {
    if (j.kind === 'http') change(j)
  })
  return true
}
const paced = (text: string) => {
  const ms = Math.round(Number(text.replace(',', '.').replace(/s$/, '')) * 1000)
  if (text.trim() !== '' && !(ms >= 0)) return false
  return edit((j) => {
    if (ms > 0) j.pacingMs = ms
    else delete j.pacingMs
  })
}
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
const value = (event: Event) => (event.target as HTMLSelectElement).value
</script>

<template>
  <div>
    <section class="grid">
      <label
      >Identity
        <select
          class="field"
          :value="journey.identity"
          @change="
            edit(j => {
              j.identity = value($event) as 'kept' | 'fresh'
            })
          "
        >
          <option value="kept">kept: the same user, pass after pass</option>
          <option value="fresh">fresh: each pass is somebody new</option>
        </select></label
      >
      <label
      >Rhythm, s between passes
        <DraftInput
          class="field"
          :value="journey.pacingMs ? journey.pacingMs / 1000 : ''"
          :accept="paced"
          placeholder="none"
        /></label>
      <label
      >After a failed step
        <select
          class="field"
          :value="journey.afterFailure ?? 'goOn'"
          @change="
            edit(j => {
              j.afterFailure = value($event) as 'goOn' | 'newPass'
            })
          "
        >
          <option value="goOn">go on with the next</option>
          <option value="newPass">begin a new pass</option>
        </select></label
      >
      <label
      >HTTP version
        <select
          class="field"
          :value="journey.http2 ? '2' : '1'"
          @change="
            edit(j => {
              j.http2 = value($event) === '2'
            })
          "
        >
          <option value="1">HTTP/1.1</option>
          <option value="2">HTTP/2 where it is offered over TLS</option>
        </select></label
      >
      <label
      >Tags, with commas
        <DraftInput
          class="field"
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
        /></label>
    </section>
    <p class="q s12">
      {{
        journey.identity === 'kept'
          ? 'Cookies, connections and TLS sessions stay from pass to pass.'
          : 'Cookies, connections and captured values go at the end of each pass; opening and closing belong to every pass.'
      }}<template v-if="journey.pacingMs">
        A pass that is late begins at once; how late it was is counted from when it should have begun.</template
      >
    </p>
    <section>
      <div class="top">
        <h2>Spans</h2>
        <span class="q s12">consecutive steps timed as one; the whole round is always one</span
        ><span class="spring" /><button v-if="steps.length" class="btn link sm" @click="addSpan">Add a span</button>
      </div>
      <div v-for="(s, i) in spans" :key="i" class="row">
        <DraftInput
          class="field"
          :value="s.name"
          :accept="name => name.trim() !== '' && setSpan(i, { name: name.trim() })"
          aria-label="Name of the span"
        />
        <label class="q"
        >from
          <select class="field" :value="s.from" @change="setSpan(i, { from: value($event) })">
            <option v-for="n in steps" :key="n">{{ n }}</option>
          </select></label
        >
        <label class="q"
        >to
          <select class="field" :value="s.to" @change="setSpan(i, { to: value($event) })">
            <option v-for="n in steps" :key="n">{{ n }}</option>
          </select></label
        >
        <label class="q s12"
        ><input
          type="checkbox"
          :checked="s.withThink"
          @change="setSpan(i, { withThink: ($event.target as HTMLInputElement).checked })"
        >
          with pauses</label
        >
        <button
          class="btn link sm"
          @click="
            edit(j => {
              j.spans = spans.filter((_, n) => n !== i)
            })
          "
        >
          Remove
        </button>
        <p v-for="p in problemsAt(`spans/${i}`)" :key="p.sentence" class="brick s12">{{ p.sentence }} {{ p.remedy }}</p>
      </div>
    </section>
    <section>
      <div class="top">
        <h2>Feeds</h2>
        <span class="q s12">rows of test data, named in texts</span><span class="spring" /><NuxtLink
          v-if="!store.view?.feeds.length"
          to="/feeds"
          class="btn link sm"
        >Upload a feed</NuxtLink
        ><button v-else class="btn link sm" @click="addFeed">Use a feed</button>
      </div>
      <div v-for="(f, i) in feeds" :key="i" class="row">
        <select class="field" :value="f.feed" aria-label="Feed" @change="setFeed(i, { feed: value($event) })">
          <option v-for="x in store.view!.feeds" :key="x.id" :value="x.id">{{ x.name }}</option>
        </select>
        <label class="q"
        >as
          <DraftInput
            class="field short mono"
            :value="f.as"
            :accept="as => /^[A-Za-z_][\w-]*$/.test(as) && setFeed(i, { as })"
          /></label>
        <select
          class="field"
          :value="f.deal"
          aria-label="How rows are dealt"
          @change="setFeed(i, { deal: value($event) as Deal })"
        >
          <option v-for="(w, d) in DEALS" :key="d" :value="d">{{ w }}</option>
        </select>
        <select
          class="field"
          :value="f.per"
          aria-label="A row per user or per pass"
          @change="setFeed(i, { per: value($event) as 'user' | 'pass' })"
        >
          <option value="user">per user</option>
          <option value="pass">per pass</option>
        </select>
        <label v-if="f.deal !== 'atRandom'" class="q"
        >then
          <select
            class="field"
            :value="f.atEnd"
            aria-label="When the rows run out"
            @change="setFeed(i, { atEnd: value($event) as FeedUse['atEnd'] })"
          >
            <option v-if="f.deal !== 'once'" value="again">from the first again</option>
            <option value="leave">the user leaves</option>
            <option value="fail">requests fail unsent</option>
          </select></label
        >
        <button
          class="btn link sm"
          @click="
            edit(j => {
              j.feeds = feeds.filter((_, n) => n !== i)
            })
          "
        >
          Remove
        </button>
        <p v-for="p in problemsAt(`feeds/${i}`)" :key="p.sentence" class="brick s12">{{ p.sentence }} {{ p.remedy }}</p>
      </div>
      <p v-if="feeds.some(f => f.deal === 'once')" class="q s12">
        Rows dealt once are cut into slices: no two generators, workers or users ever hold the same. A rehearsal and a
        try take the last rows.
      </p>
    </section>
    <section>
      <div class="top"><h2>Notes</h2></div>
      <textarea
        class="field notes"
        rows="4"
        :value="journey.notes ?? ''"
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
.grid label {
  display: grid;
  font-size: 12px;
  color: var(--quiet);
}
.grid .field {
  color: var(--ink);
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
.row .field {
  height: 24px;
  padding: 0 4px;
  max-width: 150px;
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
