<script setup lang="ts">
/** Network profiles: presets and one's own, each drawn, with what a user behind it feels. */
import { feltRttMs, fetchMs, throughputCeilingBps } from '~~/core/network/expected'
import { kernelCommands } from '~~/core/network/kernel-commands'
import type { NetworkProfile } from '~~/core/network/profile'
import { share, timeText } from '~~/core/values/said-figures'
import type { NetworksView } from '~~/api/views'
import type { ListColumn } from '~/components/marks/list-table'

const { problem, guarded, read } = useGuarded()
const { found: view, load } = read('networks')
const secure = ref(false)
const chosen = ref<string>()
/** The profile under the form: a new one has no id. */
const editing = ref<NetworkProfile | 'new'>()
const device = ref('eth0')

const line = computed(() => view.value?.profiles.find(p => p.profile.id === chosen.value))
const isOpened = computed(() => line.value !== undefined || editing.value !== undefined)
const paths = computed(() => Object.entries(view.value?.paths ?? {}))
const nearest = computed(() => Math.min(...paths.value.map(([, ms]) => ms), 1))
const bits = (bps: number | undefined) =>
  bps === undefined || !Number.isFinite(bps)
    ? 'no limit'
    : bps >= 1e9
      ? `${Number((bps / 1e9).toPrecision(3))} Gbit/s`
      : bps >= 1e6
        ? `${Number((bps / 1e6).toPrecision(3))} Mbit/s`
        : `${Number((bps / 1e3).toPrecision(3))} kbit/s`
/** Of the drawing, which is logarithmic. */
const TICKS = ['1 ms', '10 ms', '0.1 s', '1 s', '10 s', '100 s']
type Line = NetworksView['profiles'][number]
/** The narrower table beside an open profile has less of each. */
const columns = computed<ListColumn<Line>[]>(() => [
  { id: 'name', head: 'Profile', value: l => `${l.profile.name} ${l.profile.id}` },
  { id: 'latency', head: 'Round trip', num: true, unit: 'ms', value: l => l.profile.latencyMs },
  { id: 'loss', head: 'Loss', num: true, value: l => l.profile.loss },
  { id: 'down', head: 'Down', num: true, unit: 'bit/s', value: l => l.profile.downBps, asked: isOpened.value },
  { id: 'up', head: 'Up', num: true, unit: 'bit/s', value: l => l.profile.upBps, asked: isOpened.value },
  { id: 'fetch', head: 'A fetch, 1 ms to 100 s', wide: true },
  { id: 'small', head: '100 kB', num: true, unit: 'ms', value: l => fetchMs(l.profile, nearest.value, 100_000, secure.value) },
  { id: 'large', head: '1 MB', num: true, unit: 'ms', value: l => fetchMs(l.profile, nearest.value, 1_000_000, secure.value) },
  { id: 'most', head: 'At most', num: true, unit: 'bit/s', value: l => throughputCeilingBps(l.profile, nearest.value), asked: isOpened.value },
])
const inPlans = ({ length: n }: readonly string[]) => (n === 0 ? '' : `, in ${n} ${n === 1 ? 'plan' : 'plans'}`)
const pathColumns: ListColumn<[code: string, ms: number]>[] = [
  { id: 'code', head: 'Location', value: ([code]) => code },
  { id: 'real', head: 'Real', num: true, value: ([, ms]) => ms },
  { id: 'felt', head: 'Felt', num: true, value: ([, ms]) => ms },
]
function choose(id: string): void {
  chosen.value = id === chosen.value ? undefined : id
  editing.value = undefined
}
const removal = useRemoval(load)
const remove = (id: string) =>
  guarded(async () => {
    await api('removeNetwork', { network: id })
    chosen.value = undefined
    await removal('network', id, id)
  })
async function saved(id: string): Promise<void> {
  editing.value = undefined
  await load()
  chosen.value = id
}
const copy = useCopy()
useActs([
  {
    key: 'n',
    needs: 'operator',
    says: 'New network profile',
    act: () => {
      editing.value = 'new'
    },
  },
])
useHead({ title: 'Networks · Vornak' })
</script>

<template>
  <div class="screen">
    <div class="screen-head">
      <LibraryTabs /><span class="spring" /><UCheckbox v-model="secure" label="over TLS" /><UButton
        v-needs="'operator'"
        variant="solid"
        @click="editing = 'new'"
      >New profile <UKbd>n</UKbd></UButton>
    </div>
    <div class="body">
      <ProblemNote v-if="problem" :problem="problem" />
      <p class="q s12 what">
        Added on top of the real path, in user space, under TLS. Expected by formula for a fetch over a new connection:
        <i class="k connect" /> connecting <i class="k wait" /> waiting for the first byte <i class="k small" /> to 100
        kB <i class="k large" /> to 1 MB.
      </p>
      <div v-if="view" class="two" :class="{ opened: isOpened }">
        <ListTable name="network profiles" :rows="view.profiles" :columns="columns" :row-key="l => l.profile.id">
          <template #name="{ row: { profile: p, preset, plans } }">
            <UButton
              variant="link"
              size="sm"
              :aria-pressed="p.id === chosen"
              @click="choose(p.id)"
            >{{ p.name }}</UButton>
            <div class="q s12">
              {{ p.id }}{{ preset ? ', preset' : '' }}{{ inPlans(plans) }}
            </div>
          </template>
          <template #latency="{ row: { profile: p } }">{{ p.latencyMs }}<template v-if="p.jitterMs"> ± {{ p.jitterMs }}</template> ms</template>
          <template #loss="{ row }">{{ share(row.profile.loss, 2) }}</template>
          <template #down="{ row }">{{ bits(row.profile.downBps) }}</template>
          <template #up="{ row }">{{ bits(row.profile.upBps) }}</template>
          <template #head-fetch><span class="axis"><i v-for="t in TICKS" :key="t">{{ t }}</i></span></template>
          <template #fetch="{ row }">
            <FetchLine :profile="row.profile" :real-rtt-ms="nearest" :secure="secure" />
          </template>
          <template #small="{ row }"><span class="planned">{{ timeText(fetchMs(row.profile, nearest, 100_000, secure)) }}</span></template>
          <template #large="{ row }"><span class="planned">{{ timeText(fetchMs(row.profile, nearest, 1_000_000, secure)) }}</span></template>
          <template #most="{ row }"><span class="planned">{{ bits(throughputCeilingBps(row.profile, nearest)) }}</span></template>
        </ListTable>
        <div v-if="editing" class="side">
          <NetworkForm
            :profile="editing === 'new' ? undefined : editing"
            :taken="editing === 'new' ? view.profiles.map(p => p.profile.id) : []"
            @saved="saved"
            @cancelled="editing = undefined"
          />
        </div>
        <aside v-else-if="line" class="panel side detail" :aria-label="line.profile.name">
          <h2>{{ line.profile.name }}</h2>
          <p v-if="line.profile.source" class="q s12">{{ line.profile.source }}</p>
          <h3>Round trip felt, per location</h3>
          <ListTable
            name="round trips"
            plain
            :rows="paths"
            :columns="pathColumns"
            :row-key="([code]) => code"
            :empty="`No roll call has measured a path yet: ${line.profile.latencyMs} ms come on top of it.`"
          >
            <template #code="{ row: [code] }"><LocationCode :code="code" /></template>
            <template #real="{ row: [, ms] }"><span class="measured">{{ timeText(ms) }}</span></template>
            <template #felt="{ row: [, ms] }"><span class="planned">{{ timeText(feltRttMs(line.profile, ms)) }}</span></template>
          </ListTable>
          <h3>For the kernel of a private Linux host</h3>
          <p class="q s12">
            There the target’s own kernel sees the loss too. Shapes the whole machine; its administrator must run it.
          </p>
          <UFormField class="s12" label="Interface"><UInput v-model="device" class="short" /></UFormField>
          <pre class="mono">{{ kernelCommands(line.profile, device) }}</pre>
          <div class="ends">
            <UButton size="sm" @click="copy(kernelCommands(line.profile, device), 'the commands')">Copy the commands</UButton>
            <UButton v-if="!line.preset" v-needs="'operator'" size="sm" @click="editing = line.profile">Edit</UButton>
            <UButton v-if="!line.preset" v-needs="'operator'" size="sm" @click="remove(line.profile.id)">Remove</UButton>
          </div>
        </aside>
      </div>
      <p v-else-if="!problem" class="q">Reading the profiles…</p>
    </div>
  </div>
</template>

<style scoped>
.screen-head {
  display: flex;
  align-items: center;
  gap: 12px;
}
.spring {
  flex: 1;
}
.what {
  margin-bottom: 6px;
}
.k {
  display: inline-block;
  width: 18px;
  height: 8px;
  margin: 0 2px 0 8px;
  vertical-align: 0;
}
.k.connect {
  border-bottom: 1px dashed var(--edge);
  height: 5px;
  vertical-align: 3px;
}
.k.wait {
  background: var(--edge);
  height: 5px;
  vertical-align: 1px;
}
.k.small {
  background: var(--ink);
}
.k.large {
  border: 1px solid var(--ink);
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
  align-items: start;
}
.two.opened {
  grid-template-columns: minmax(0, 1fr) 400px;
}
.axis {
  display: flex;
  justify-content: space-between;
  font-weight: 400;
  color: var(--quiet);
}
.axis i {
  font-style: normal;
  font-size: 11px;
}
.detail {
  padding: 10px 12px;
  display: grid;
  gap: 8px;
}
.detail h3 {
  font-weight: 600;
  font-size: 12.5px;
}
.short {
  width: 90px;
}
pre {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  font-size: 11px;
  line-height: 15px;
  overflow: auto;
  background: var(--sunk);
  padding: 8px;
  border-radius: 4px;
}
.ends {
  display: flex;
  gap: 8px;
}
</style>
