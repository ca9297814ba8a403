<script setup lang="ts">
/** One machine: what it is, whom it works for, what it costs, how long it is held, what became of it, what it wrote. */
import type { MachineLine } from '~~/api/views'
import type { ListColumn } from '~/components/marks/list-table'
import { bytes, euro } from '~~/core/values/said-figures'
import { clockTime, dayTime, duration } from '~/format/moments'
import type { GlyphName } from '~/components/marks/glyphs'
import { MACHINE_WORDS, TROUBLED } from '~~/core/run/machine-life'

const route = useRoute()
const live = useLive()
const { problem, guarded, read } = useGuarded()
const id = String(route.params.id)
const { found: view, load } = read('machine', { machine: id })
live.onNews((news) => {
  if (news.kind === 'fleet') void load()
})
const m = computed(() => view.value?.machine)
const out = computed(() => m.value?.goneAt === undefined)
const act = (carryOut: () => Promise<unknown>) =>
  guarded(async () => {
    await carryOut()
    await load()
  })
const extend = (minutes: number) => act(() => api('extendLease', { machine: id }, { minutes }))
const release = () => act(() => api('releaseMachine', { machine: id }))
useHead({ title: computed(() => `${m.value?.name ?? 'Machine'} · Vornak`) })
const COLUMNS: ListColumn<MachineLine['changes'][number]>[] = [
  { id: 'at', head: '', value: c => c.at },
  { id: 'to', head: '', value: c => MACHINE_WORDS[c.to] },
  { id: 'reason', head: '', wide: true, value: c => c.reason },
]
</script>

<template>
  <div class="screen">
    <div class="screen-head top">
      <NuxtLink to="/fleet" class="q u">Fleet</NuxtLink>
      <template v-if="m">
        <h1>{{ m.name }}</h1>
        <span :class="{ brick: TROUBLED.includes(m.state) }">
          <AGlyph :name="m.state as GlyphName" /> <b>{{ MACHINE_WORDS[m.state] }}</b>
        </span>
        <span class="q">{{ m.type }} in {{ m.region }}, {{ m.provider }}{{ m.interruptible ? ', interruptible' : '' }}</span><span class="spring" />
        <template v-if="out">
          <UButton size="sm" @click="extend(15)">15 min longer</UButton>
          <UButton size="sm" @click="extend(60)">1 h longer</UButton>
          <UButton v-needs="'operator'" size="sm" color="error" @click="release">Release {{ m.name }}</UButton>
        </template>
      </template>
    </div>
    <div class="body">
      <ProblemNote v-if="problem" :problem="problem" />
      <div v-if="view && m" class="two">
        <section class="panel pad">
          <h2>Now</h2>
          <dl>
            <dt>Lease</dt>
            <dd v-if="out">
              ends in <b>{{ duration(m.leaseEndsAt - live.controllerNow) }}</b>, at {{ clockTime(m.leaseEndsAt) }}; then
              it goes, though nobody watches
            </dd>
            <dd v-else>over: gone since {{ dayTime(m.goneAt!, live.controllerNow) }}</dd>
            <template v-if="m.reclaimAt && out"><dt class="brick">Taken back</dt>
              <dd class="brick">by its provider in {{ duration(m.reclaimAt - live.controllerNow) }}</dd></template>
            <template v-if="m.waits"><dt>Waits</dt>
              <dd>{{ m.waits.sentence }}, for {{ duration(live.controllerNow - m.waits.since) }}</dd></template>
            <dt>Generator</dt>
            <dd>
              {{ view.connected ? 'connected' : 'not connected'
              }}<template v-if="view.address"> from {{ view.address }}</template>
            </dd>
            <template v-if="m.facts"><dt>Machine</dt>
              <dd>
                {{ m.facts.hostname }}: {{ m.facts.cores }} {{ m.facts.cores === 1 ? 'core' : 'cores' }},
                {{ bytes(m.facts.memoryBytes) }} memory, Node {{ m.facts.node.replace('v', '') }}
              </dd></template>
            <template v-if="m.clockMs !== undefined"><dt>Clock</dt>
              <dd>known to ± {{ m.clockMs.toFixed(1) }} ms at worst under load</dd></template>
            <dt>Provider’s name</dt>
            <dd class="mono">{{ view.ref ?? 'none yet' }}</dd>
          </dl>
          <h2>Cost</h2>
          <dl>
            <dt>Price</dt>
            <dd>
              {{ euro(view.price.perHour) }}/h<template v-if="view.price.extrasPerHour">
                and {{ euro(view.price.extrasPerHour) }}/h for what is attached</template>, in steps of {{ view.price.grainS }} s<template v-if="view.price.minimumS">, at least {{ duration(view.price.minimumS * 1000) }}</template><template v-if="view.price.asOf">; prices of {{ view.price.asOf }}</template>
            </dd>
            <dt>So far</dt>
            <dd>
              <b>{{ euro(m.cost) }}</b>
            </dd>
            <template v-if="out"><dt>Until its lease ends</dt>
              <dd>
                <span class="planned">{{ euro(view.committed) }}</span>
              </dd></template>
            <template v-if="m.billed !== undefined"><dt>Billed by its provider</dt>
              <dd>
                <span class="measured">{{ euro(m.billed) }}</span>
              </dd></template>
          </dl>
          <template v-if="view.crew.length">
            <h2>Worked for</h2>
            <dl>
              <template
                v-for="c in view.crew"
                :key="c.runId"
              ><dt>
                 <NuxtLink :to="`/runs/${c.runId}`" class="u">run {{ c.runId }}</NuxtLink>
               </dt>
                <dd>
                  as {{ c.name }} from {{ clockTime(c.takenAt)
                  }}<template v-if="c.leftAt"> to {{ clockTime(c.leftAt) }}</template>, {{ euro(c.cost) }}
                </dd></template>
            </dl>
          </template>
        </section>
        <section class="panel pad">
          <h2>What became of it</h2>
          <p v-if="m.changes.length === 0" class="q">Nothing yet: its provider has not been asked for it.</p>
          <ListTable
            v-else
            plain
            name="what became of it"
            :rows="m.changes"
            :columns="COLUMNS"
            :row-key="c => `${c.at} ${c.to}`"
          >
            <template #at="{ row }"><span class="q">{{ clockTime(row.at) }}</span></template>
            <template #to="{ row }"><b>{{ MACHINE_WORDS[row.to] }}</b></template>
          </ListTable>
        </section>
        <section v-if="view.rollCall" class="panel pad across">
          <h2>Roll call</h2>
          <RollCallTable :view="view.rollCall" />
        </section>
        <section v-if="view.log" class="panel pad across">
          <h2>What its generator wrote</h2>
          <pre class="mono log">{{ view.log }}</pre>
        </section>
      </div>
      <p v-else-if="!problem" class="q">Reading…</p>
    </div>
  </div>
</template>

<style scoped>
.top {
  display: flex;
  gap: 10px;
  align-items: center;
}
.spring {
  flex: 1;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 12px;
  align-items: start;
}
.across {
  grid-column: 1 / -1;
  overflow-x: auto;
}
.pad {
  padding: 8px 12px;
}
h2 {
  margin: 6px 0 4px;
}
dl {
  display: grid;
  grid-template-columns: 130px 1fr;
  gap: 3px 10px;
  font-size: 12.5px;
}
dt {
  color: var(--quiet);
}
.when {
  width: 74px;
}
.state {
  width: 110px;
}
.log {
  white-space: pre-wrap;
  max-height: 240px;
  overflow: auto;
  background: var(--sunk);
  padding: 8px;
  border-radius: 4px;
}
</style>
