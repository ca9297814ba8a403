<script setup lang="ts">
/** The machines of a run before it loads: each with its state, since when, and why. */
import type { MachineLine, RunView } from '~~/api/views'
import type { ListColumn } from '../marks/list-table'
import { joinsLate } from '~~/core/fleet/order'
import { countStates } from '~/format/fleet'
import { duration } from '~/format/moments'
import type { GlyphName } from '../marks/glyphs'
import { ENROLLED, MACHINE_WORDS, TROUBLED } from '~~/core/run/machine-life'

const { run } = defineProps<{ run: RunView }>()
const live = useLive()
const wanted = computed(() => run.document.fleet.reduce((s, o) => s + (joinsLate(o) ? 0 : o.machines), 0))
const late = computed(() => run.document.fleet.reduce((s, o) => s + (joinsLate(o) ? o.machines : 0), 0))
/** More than this are told by number; those that need somebody by name. */
const MOST_NAMED = 40
const rows = computed(() =>
  run.machines.length <= MOST_NAMED
    ? run.machines
    : run.machines.filter(m => TROUBLED.includes(m.state)).slice(0, MOST_NAMED),
)
const inHand = computed(() => run.machines.filter(m => ENROLLED.includes(m.state)).length)
const reasonOf = (m: MachineLine) =>
  m.state === 'asked' && m.waits ? m.waits.sentence : (m.changes.at(-1)?.reason ?? 'asked for')
const COLUMNS: ListColumn<MachineLine>[] = [
  { id: 'machine', head: 'Machine', value: m => m.name },
  { id: 'state', head: 'State', value: m => MACHINE_WORDS[m.state] },
  { id: 'way', head: '' },
  { id: 'since', head: 'For', num: true, value: m => m.changes.at(-1)?.at },
  { id: 'reason', head: 'Reason', wide: true, value: reasonOf },
  { id: 'lease', head: 'Lease ends in', num: true, value: m => m.leaseEndsAt },
]
</script>

<template>
  <section>
    <div class="top">
      <h2>Machines</h2>
      <span class="q">{{ inHand }} of {{ wanted }} enrolled<template v-if="late">; {{ late }} more are ordered for the peak, while it loads</template></span><template v-if="rows.length < run.machines.length"><span
        v-for="c in countStates(run.machines)"
        :key="c.state"
        :class="{ brick: TROUBLED.includes(c.state) }"
      ><AGlyph :name="c.state as GlyphName" :size="10" /> {{ c.count }} {{ MACHINE_WORDS[c.state] }}</span></template>
    </div>
    <ListTable
      v-if="rows.length"
      name="machines of the run"
      plain
      class="panel"
      :rows="rows"
      :columns="COLUMNS"
      :row-key="m => m.id"
    >
      <template #machine="{ row }">
        <LocationCode :code="row.location" /> <NuxtLink
          :to="`/fleet/machines/${encodeURIComponent(row.id)}`"
          class="u"
        ><b>{{ row.name }}</b></NuxtLink> <span class="q">{{ row.type }}{{ row.again ? ', again' : '' }}</span>
      </template>
      <template #state="{ row }">
        <span :class="{ brick: TROUBLED.includes(row.state) }">
          <AGlyph :name="row.state as GlyphName" /> {{ MACHINE_WORDS[row.state] }}
        </span>
      </template>
      <template #way="{ row }"><StateBar :state="row.state" :width="120" /></template>
      <template #since="{ row }">
        {{ row.goneAt === undefined ? duration(live.controllerNow - (row.changes.at(-1)?.at ?? row.askedAt)) : '–' }}
      </template>
      <template #reason="{ row }">
        <span :class="{ brick: TROUBLED.includes(row.state) }" :title="reasonOf(row)">{{ reasonOf(row) }}</span>
      </template>
      <template #lease="{ row }">
        {{ row.goneAt === undefined ? duration(row.leaseEndsAt - live.controllerNow) : '–' }}
      </template>
    </ListTable>
    <p v-if="!run.machines.length" class="q">No machine has been asked for yet.</p>
  </section>
</template>

<style scoped>
.top {
  display: flex;
  gap: 14px;
  align-items: center;
  height: 26px;
}
td :deep(.bar) {
  margin-top: 4px;
}
</style>
