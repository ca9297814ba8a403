<script setup lang="ts">
/** The machines of a run before it loads: each with its state, since when, and why. */
import type { RunView } from '~~/api/views'
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
</script>

<template>
  <section>
    <div class="top">
      <h2>Machines</h2>
      <span class="q"
      >{{ inHand }} of {{ wanted }} enrolled<template v-if="late"
      >; {{ late }} more are ordered for the peak, while it loads</template
      ></span
      ><template v-if="rows.length < run.machines.length"
      ><span v-for="c in countStates(run.machines)" :key="c.state" :class="{ brick: TROUBLED.includes(c.state) }"
      ><AGlyph :name="c.state as GlyphName" :size="10" /> {{ c.count }} {{ MACHINE_WORDS[c.state] }}</span
      ></template
      >
    </div>
    <table v-if="rows.length" class="table panel">
      <thead>
        <tr>
          <th>Machine</th>
          <th>State</th>
          <th />
          <th>For</th>
          <th>Reason</th>
          <th class="num">Lease ends in</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="m in rows" :key="m.id" :class="{ brick: TROUBLED.includes(m.state) }">
          <td>
            <LocationCode :code="m.location" /> <NuxtLink :to="`/fleet/machines/${encodeURIComponent(m.id)}`" class="u"
            ><b>{{ m.name }}</b></NuxtLink
            > <span class="q">{{ m.type }}{{ m.again ? ', again' : '' }}</span>
          </td>
          <td><AGlyph :name="m.state as GlyphName" /> {{ MACHINE_WORDS[m.state] }}</td>
          <td><StateBar :state="m.state" :width="120" /></td>
          <td class="num">
            {{ m.goneAt === undefined ? duration(live.controllerNow - (m.changes.at(-1)?.at ?? m.askedAt)) : '–' }}
          </td>
          <td class="reason">
            {{ m.state === 'asked' && m.waits ? m.waits.sentence : (m.changes.at(-1)?.reason ?? 'asked for') }}
          </td>
          <td class="num">{{ m.goneAt === undefined ? duration(m.leaseEndsAt - live.controllerNow) : '–' }}</td>
        </tr>
      </tbody>
    </table>
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
.table th:first-child,
.table td:first-child {
  padding-left: 10px;
}
.u:hover {
  text-decoration: underline;
}
.reason {
  white-space: normal;
}
td :deep(.bar) {
  margin-top: 4px;
}
</style>
