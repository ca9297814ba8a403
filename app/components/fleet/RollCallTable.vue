<script setup lang="ts">
/** A roll call as it was answered: a row a machine, what failed and what it means above. */
import type { RollCallView } from '~~/api/views'
import { bytes, count } from '~~/core/values/said-figures'
import { clockTime } from '~/format/moments'

const { view, ask } = defineProps<{
  view: RollCallView
  /** Calls one machine again; left out: it is kept as it was. */ ask?: (id: string) => void
}>()
const ms = (n: number) => (n < 0 ? '–' : n < 10 ? n.toFixed(1) : String(Math.round(n)))
const names = computed(() => new Map(view.machines.map(m => [m.id, m.name])))
/** One line per kind, with everybody it is about. */
const kinds = computed(() =>
  [...new Set(view.findings.map(f => `${f.code} ${f.weight}`))].map((kind) => {
    const found = view.findings.filter(f => `${f.code} ${f.weight}` === kind)
    return {
      kind,
      weight: found[0]!.weight,
      sentence: found[0]!.sentence,
      means: found[0]!.means,
      who: found.map(f => names.value.get(f.machine) ?? f.machine),
    }
  }),
)
const wrong = (id: string, ...codes: string[]) => view.findings.find(f => f.machine === id && codes.includes(f.code))
const tested = computed(() => view.machines.some(m => m.report?.selfTest))
const hosts = computed(() => [...new Set(view.machines.flatMap(m => m.report?.reached.map(r => r.host) ?? []))])
</script>

<template>
  <div>
    <table v-if="kinds.length" class="table found">
      <tbody>
        <tr v-for="k in kinds" :key="k.kind">
          <td class="mark" :class="{ brick: k.weight === 'unfit' }">
            <AGlyph
              :name="k.weight === 'unfit' ? 'unfit' : 'toKnow'"
              :word="k.weight === 'unfit' ? 'unfit' : 'good to know'"
            />
          </td>
          <td class="who">
            <b>{{ k.who.slice(0, 3).join(', ') }}</b><span v-if="k.who.length > 3" class="q"> and {{ k.who.length - 3 }} more</span>
          </td>
          <td :class="{ brick: k.weight === 'unfit' }">{{ k.sentence }}</td>
          <td class="q">{{ k.means }}</td>
        </tr>
      </tbody>
    </table>
    <table class="table calls">
      <thead>
        <tr>
          <th>Machine</th>
          <th>Release</th>
          <th class="num">Speed</th>
          <th class="num">Memory free</th>
          <th class="num">Descriptors</th>
          <th class="num">Ports</th>
          <th class="num">Disk free</th>
          <th v-if="tested" class="num">Self-test</th>
          <th class="num">Clock off</th>
          <th>Address</th>
          <th v-for="h in hosts" :key="h" class="num reach">{{ h }}<br>name, connect, TLS, first byte, ms</th>
          <th v-if="ask" />
        </tr>
      </thead>
      <tbody>
        <tr v-for="m in view.machines" :key="m.id">
          <td>
            <LocationCode :code="m.location" /> <NuxtLink
              :to="`/fleet/machines/${encodeURIComponent(m.id)}`"
              class="u"
            ><b>{{ m.name }}</b></NuxtLink>
            <div v-if="m.at" class="q s11">{{ clockTime(m.at) }}</div>
          </td>
          <template v-if="m.report">
            <td :class="{ brick: wrong(m.id, 'program') }">{{ m.report.program }}</td>
            <td
              class="num"
              :class="{ brick: wrong(m.id, 'slow') }"
              title="Hashes of 4 kB per ms: compares siblings, nothing else"
            >
              {{ m.report.speed.toFixed(0) }} /ms
            </td>
            <td class="num">{{ bytes(m.report.memoryFreeBytes) }}</td>
            <td class="num" :class="{ brick: wrong(m.id, 'descriptors') }">{{ count(m.report.descriptors) }}</td>
            <td class="num" :class="{ brick: wrong(m.id, 'ports') }">{{ count(m.report.ports) }}</td>
            <td class="num" :class="{ brick: wrong(m.id, 'disk') }">
              {{ m.report.diskFreeBytes < 0 ? '–' : bytes(m.report.diskFreeBytes) }}
            </td>
            <td
              v-if="tested"
              class="num"
              :class="{ brick: wrong(m.id, 'overSelfTest') }"
              title="What its CPU bears by a self-test, against what is planned for it"
            >
              <template v-if="m.report.selfTest">{{ count(m.report.selfTest.mostPerS) }} /s<span v-if="m.plannedPerS !== undefined" class="q">
                for {{ count(m.plannedPerS) }}</span></template><template v-else>–</template>
            </td>
            <td class="num" :class="{ brick: wrong(m.id, 'clock', 'clockOff') }">
              <template v-if="m.clock">{{ m.clock.offsetMs.toFixed(1) }} ± {{ m.clock.uncertaintyMs.toFixed(1) }} ms</template><template v-else>–</template>
            </td>
            <td>{{ m.address ?? 'over SSH' }}</td>
            <td
              v-for="h in hosts"
              :key="h"
              class="num"
              :class="{ brick: wrong(m.id, 'unreached', 'blocked') }"
              :title="m.report.reached.find(r => r.host === h)?.addresses.join(', ')"
            >
              <template
                v-for="r in m.report.reached.filter(x => x.host === h)"
                :key="r.host"
              ><template v-if="r.ok">{{ ms(r.lookupMs) }}, {{ ms(r.connectMs) }}, {{ ms(r.tlsMs) }}, {{ ms(r.firstByteMs) }}
                <span class="q">→ {{ r.status || 'no HTTP' }}</span></template><template v-else>{{ r.problem }}</template></template>
            </td>
          </template>
          <td v-else :colspan="8 + hosts.length + (tested ? 1 : 0)" class="q">not called yet</td>
          <td v-if="ask"><UButton size="sm" @click="ask(m.id)">Call</UButton></td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.found {
  margin-bottom: 10px;
}
.mark {
  width: 22px;
}
.who {
  width: 180px;
}
.calls tr {
  content-visibility: auto;
  contain-intrinsic-size: 28px;
}
.calls td {
  white-space: nowrap;
}
.calls th,
.calls td {
  padding-right: 8px;
}
.calls th {
  vertical-align: bottom;
}
</style>
