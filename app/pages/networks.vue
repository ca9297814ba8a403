<script setup lang="ts">
/** Network profiles: presets and one's own, each drawn, with what a user behind it feels. */
import { feltRttMs, fetchMs, throughputCeilingBps } from '~~/core/network/expected'
import { kernelCommands } from '~~/core/network/kernel-commands'
import type { NetworkProfile } from '~~/core/network/profile'
import { share, timeText } from '~~/core/values/said-figures'

const { problem, guarded, read } = useGuarded()
const { found: view, load } = read('networks')
const secure = ref(false)
const chosen = ref<string>()
/** The profile under the form: a new one has no id. */
const editing = ref<NetworkProfile | 'new'>()
const device = ref('eth0')

const line = computed(() => view.value?.profiles.find(p => p.profile.id === chosen.value))
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
      <div v-if="view" class="two" :class="{ opened: line || editing }">
        <div class="panel">
          <div class="line hd q s12">
            <span>profile</span><span class="num">round trip</span><span class="num">loss</span><span class="num">down / up</span><span class="axis"><i v-for="t in ['1 ms', '10 ms', '0.1 s', '1 s', '10 s', '100 s']" :key="t">{{ t }}</i></span><span class="num">100 kB</span><span class="num">1 MB</span><span class="num">at most</span>
          </div>
          <button
            v-for="{ profile: p, preset, plans } in view.profiles"
            :key="p.id"
            class="line"
            :class="{ on: p.id === chosen }"
            :aria-pressed="p.id === chosen"
            @click="
              chosen = p.id === chosen ? undefined : p.id;
              editing = undefined
            "
          >
            <span class="clip"><b>{{ p.name }}</b><br><span class="q s12">{{ p.id }}{{ preset ? ', preset' : ''
            }}{{ plans.length ? `, in ${plans.length} ${plans.length === 1 ? 'plan' : 'plans'}` : '' }}</span></span>
            <span class="num">{{ p.latencyMs }}<template v-if="p.jitterMs"> ± {{ p.jitterMs }}</template> ms</span>
            <span class="num">{{ share(p.loss, 2) }}</span>
            <span class="num">{{ bits(p.downBps) }}<br>{{ bits(p.upBps) }}</span>
            <FetchLine :profile="p" :real-rtt-ms="nearest" :secure="secure" />
            <span class="num planned">{{ timeText(fetchMs(p, nearest, 100_000, secure)) }}</span>
            <span class="num planned">{{ timeText(fetchMs(p, nearest, 1_000_000, secure)) }}</span>
            <span class="num planned">{{ bits(throughputCeilingBps(p, nearest)) }}</span>
          </button>
        </div>
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
          <table class="felt">
            <tbody>
              <tr v-for="[code, ms] in paths" :key="code">
                <td><LocationCode :code="code" /></td>
                <td class="num">
                  <span class="measured">{{ timeText(ms) }}</span> real
                </td>
                <td class="num">
                  <span class="planned">{{ timeText(feltRttMs(line.profile, ms)) }}</span> felt
                </td>
              </tr>
              <tr v-if="!paths.length">
                <td class="q" colspan="3">
                  No roll call has measured a path yet: {{ line.profile.latencyMs }} ms come on top of it.
                </td>
              </tr>
            </tbody>
          </table>
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
.line {
  display: grid;
  grid-template-columns: minmax(110px, 1.1fr) 82px 52px 92px minmax(120px, 3fr) 66px 66px 84px;
  gap: 10px;
  align-items: center;
  width: 100%;
  text-align: left;
  padding: 5px 10px;
  border-bottom: 1px solid var(--hair);
  font-size: 12.5px;
}
.line:last-child {
  border-bottom: 0;
}
.line.hd {
  background: var(--bg);
}
button.line:hover,
.on {
  background: var(--sel);
}
.num {
  text-align: right;
  line-height: 16px;
}
.axis {
  display: flex;
  justify-content: space-between;
}
.axis i {
  font-style: normal;
  font-size: 11px;
}
.opened .line {
  grid-template-columns: minmax(100px, 1.1fr) 74px 46px minmax(80px, 2fr) 60px 60px;
}
.opened .line > :nth-child(4),
.opened .line > :nth-child(8) {
  display: none;
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
.felt td {
  padding: 1px 14px 1px 0;
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
