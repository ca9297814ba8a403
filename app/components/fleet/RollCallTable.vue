<script setup lang="ts">
/** A roll call as it was answered: a row a machine, what failed and what it means above. */
import type { RollCallView } from '~~/api/views'
import type { ReachedHost } from '~~/core/fleet/roll-call'
import { bytes, count } from '~~/core/values/said-figures'
import { clockTime } from '~/format/moments'
import type { ListColumn } from '~/components/marks/list-table'

const { view, ask } = defineProps<{
  view: RollCallView
  /** Calls one machine again; left out: it is kept as it was. */ ask?: (id: string) => void
}>()
const inMs = (n: number | undefined) => (n === undefined ? '–' : `${n < 10 ? n.toFixed(1) : Math.round(n)} ms`)
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

type Kind = (typeof kinds.value)[number]
const findingColumns: ListColumn<Kind>[] = [
  { id: 'weight', head: '', value: k => (k.weight === 'unfit' ? 'unfit' : 'good to know') },
  { id: 'who', head: '', value: k => k.who.join(', ') },
  { id: 'sentence', head: '', value: k => k.sentence },
  { id: 'means', head: '', value: k => k.means },
]
type Machine = RollCallView['machines'][number]
const reached = (m: Machine, host: string) => m.report?.reached.find(r => r.host === host)
const known = (n: number | undefined) => (n === undefined || n < 0 ? undefined : n)
const PARTS: { id: string, head: string, of: (r: ReachedHost) => number, asked?: boolean }[] = [
  { id: 'lookup', head: 'Name', of: r => r.lookupMs, asked: true },
  { id: 'connect', head: 'Connect', of: r => r.connectMs },
  { id: 'tls', head: 'TLS', of: r => r.tlsMs, asked: true },
  { id: 'first', head: 'First byte', of: r => r.firstByteMs },
]
/** Parts of the way to each host. Names of hosts have colons; those of slots have none. */
const times = computed(() => hosts.value.flatMap((host, at) => PARTS.map(({ id, head, of, asked }) => ({
  id: `${id}${at}`,
  head: hosts.value.length > 1 ? `${head}, ${host}` : head,
  num: true,
  unit: 'ms',
  asked: asked ?? false,
  value: (m: Machine) => known(reached(m, host) && of(reached(m, host)!)),
}))))
const answers = computed(() => hosts.value.map((host, at) => ({
  id: `answer${at}`,
  head: `Answer of ${host}`,
  value: (m: Machine) => {
    const found = reached(m, host)
    return found?.ok ? found.status || 'no HTTP' : found?.problem
  },
})))
const columns = computed<ListColumn<Machine>[]>(() => [
  { id: 'name', head: 'Machine', value: m => m.name },
  { id: 'program', head: 'Release', value: m => m.report?.program ?? 'not called yet' },
  { id: 'speed', head: 'Speed', num: true, unit: 'hashes of 4 kB per ms', value: m => m.report?.speed },
  { id: 'memory', head: 'Memory free', num: true, unit: 'bytes', value: m => m.report?.memoryFreeBytes },
  { id: 'descriptors', head: 'Descriptors', num: true, value: m => m.report?.descriptors },
  { id: 'ports', head: 'Ports', num: true, value: m => m.report?.ports },
  { id: 'disk', head: 'Disk free', num: true, unit: 'bytes', value: m => known(m.report?.diskFreeBytes) },
  ...(tested.value
    ? [{ id: 'selfTest', head: 'Self-test', num: true, unit: '/s', value: (m: Machine) => m.report?.selfTest?.mostPerS }]
    : []),
  { id: 'clock', head: 'Clock off', num: true, unit: 'ms', value: m => m.clock?.offsetMs },
  { id: 'address', head: 'Address', value: m => m.address ?? (m.report && 'over SSH') },
  ...times.value,
  ...answers.value,
  ...(ask ? [{ id: 'acts', head: '' }] : []),
])
</script>

<template>
  <div>
    <ListTable
      v-if="kinds.length"
      class="found"
      name="what the roll call found"
      plain
      :rows="kinds"
      :columns="findingColumns"
      :row-key="k => k.kind"
    >
      <template #weight="{ row }">
        <AGlyph
          :class="{ brick: row.weight === 'unfit' }"
          :name="row.weight === 'unfit' ? 'unfit' : 'toKnow'"
          :word="row.weight === 'unfit' ? 'unfit' : 'good to know'"
        />
      </template>
      <template #who="{ row }">
        <b>{{ row.who.slice(0, 3).join(', ') }}</b><span v-if="row.who.length > 3" class="q"> and {{ row.who.length - 3 }} more</span>
      </template>
      <template #sentence="{ row }"><span :class="{ brick: row.weight === 'unfit' }">{{ row.sentence }}</span></template>
      <template #means="{ row }"><span class="q">{{ row.means }}</span></template>
    </ListTable>
    <ListTable name="roll call" :rows="view.machines" :columns="columns" :row-key="m => m.id">
      <template #name="{ row: m }">
        <LocationCode :code="m.location" /> <NuxtLink
          :to="`/fleet/machines/${encodeURIComponent(m.id)}`"
          class="u"
        ><b>{{ m.name }}</b></NuxtLink> <span v-if="m.at" class="q s11">{{ clockTime(m.at) }}</span>
      </template>
      <template #program="{ row: m }">
        <span v-if="m.report" :class="{ brick: wrong(m.id, 'program') }">{{ m.report.program }}</span>
        <span v-else class="q">not called yet</span>
      </template>
      <template #speed="{ row: m }">
        <span v-if="m.report" :class="{ brick: wrong(m.id, 'slow') }" title="Hashes of 4 kB per ms: compares siblings, nothing else">{{ m.report.speed.toFixed(0) }} /ms</span><template v-else>–</template>
      </template>
      <template #memory="{ row: m }">{{ m.report ? bytes(m.report.memoryFreeBytes) : '–' }}</template>
      <template #descriptors="{ row: m }">
        <span :class="{ brick: wrong(m.id, 'descriptors') }">{{ m.report ? count(m.report.descriptors) : '–' }}</span>
      </template>
      <template #ports="{ row: m }">
        <span :class="{ brick: wrong(m.id, 'ports') }">{{ m.report ? count(m.report.ports) : '–' }}</span>
      </template>
      <template #disk="{ row: m }">
        <span :class="{ brick: wrong(m.id, 'disk') }">{{
          m.report && m.report.diskFreeBytes >= 0 ? bytes(m.report.diskFreeBytes) : '–'
        }}</span>
      </template>
      <template #selfTest="{ row: m }">
        <span v-if="m.report?.selfTest" :class="{ brick: wrong(m.id, 'overSelfTest') }" title="What its CPU bears by a self-test, against what is planned for it">{{ count(m.report.selfTest.mostPerS) }} /s<span v-if="m.plannedPerS !== undefined" class="q">
          for {{ count(m.plannedPerS) }}</span></span><template v-else>–</template>
      </template>
      <template #clock="{ row: m }">
        <span v-if="m.clock" :class="{ brick: wrong(m.id, 'clock', 'clockOff') }">{{ m.clock.offsetMs.toFixed(1).replace(/^-(0\.0)$/, '$1') }} ± {{ m.clock.uncertaintyMs.toFixed(1) }} ms</span><template v-else>–</template>
      </template>
      <template v-for="t in times" :key="t.id" #[t.id]="{ row: m }">{{ inMs(t.value(m)) }}</template>
      <template v-for="(h, at) in hosts" :key="h" #[`answer${at}`]="{ row: m }">
        <span v-if="reached(m, h)?.ok" class="q" :title="reached(m, h)!.addresses.join(', ')">→ {{ reached(m, h)!.status || 'no HTTP' }}</span>
        <span v-else :class="{ brick: wrong(m.id, 'unreached', 'blocked') }">{{ reached(m, h)?.problem ?? '–' }}</span>
      </template>
      <template #acts="{ row: m }"><UButton size="sm" :aria-label="`Call ${m.name}`" @click="ask!(m.id)">Call</UButton></template>
    </ListTable>
  </div>
</template>

<style scoped>
.found {
  margin-bottom: 10px;
}
</style>
