<script setup lang="ts">
/**
 * How one location is sized: its machines, each signal's load with and without the spares, what binds, what is left,
 * and what other choices would cost.
 */
import type { ListColumn } from '../marks/list-table'
import type { PlanCheck } from '~~/api/views'
import { BASIS_WORDS } from '~~/core/fleet/capacity-book'
import { saySignalLoad } from '~~/core/fleet/sizing'
import { count, euro } from '~~/core/values/said-figures'
import { duration } from '~/format/moments'
import { onceLost, sayShift } from '~/format/sizing'
import { locationOf } from '~~/core/plan/in-plan'
import { present } from '~~/core/values/present'

/** Code of the location; undefined: closed. */
const open = defineModel<string | undefined>({ required: true })
const { check } = defineProps<{ check: PlanCheck | undefined }>()
const store = usePlan()
const plan = () => present(store.plan, 'the plan on the sheet')
const sized = () => present(size.value, 'what the location was sized to')
const shown = computed({
  get: () => plan().locations.some(l => l.code === open.value),
  set: (is) => {
    if (!is) open.value = undefined
  },
})
const size = computed(() => check?.sizes.find(s => s.code === open.value))
const location = computed(() => plan().locations.find(l => l.code === open.value))
/** How those for the peak come, where they come late. */
const late = computed(() => size.value?.machines.find(m => m.shift && m.shift.leadMs > 0)?.shift)
const sure = computed(() => size.value && ['calibrated', 'otherNetwork', 'byHand'].includes(size.value.basis))
const difference = (n: number) =>
  Math.abs(n) < 0.0005 ? 'at the same cost' : n > 0 ? `+${euro(n)} for the run` : `−${euro(-n)} for the run`
function choose(cheapest: boolean): void {
  store.edit((p) => {
    const at = locationOf(p, open.value ?? '')
    if (cheapest) at.choose = 'cheapest'
    else Reflect.deleteProperty(at, 'choose')
  })
}
const { problem, guarded } = useGuarded()
const busy = ref(false)
/** One machine of each kind that is taken holds this location's real mix for half a minute. */
async function verify(): Promise<void> {
  busy.value = true
  const { provider, region, code } = present(location.value, 'the location that is sized')
  if (await store.save())
    await guarded(async () => {
      const { id } = await api('calibrate', {}, {
        journeys: [],
        networks: [],
        provider,
        region,
        types: [sized().machines[0]!.type.name],
        machines: 1,
        targetId: plan().targetId,
        sink: true,
        verify: { planId: present(store.view, 'the plan on the sheet').id, location: code },
      })
      await goTo(`/fleet/capacity/batch-${id}`)
    })
  busy.value = false
}
function pin(): void {
  const [first] = sized().machines
  if (!first) return
  store.edit((p) => {
    const at = locationOf(p, open.value ?? '')
    Reflect.deleteProperty(at, 'choose')
    at.machineType = first.type.name
    at.machines = first.count
  })
}
type Taken = NonNullable<typeof size.value>['machines'][number]
const MACHINES: ListColumn<Taken>[] = [
  { id: 'machines', head: 'Machines', value: m => m.type.name },
  { id: 'carries', head: 'One carries', num: true, value: m => m.carries },
  { id: 'perHour', head: 'Per hour', num: true, value: m => m.perHour },
  { id: 'cost', head: 'For the run', num: true, value: m => m.cost },
]
</script>

<template>
  <UModal
    v-model:open="shown"
    :title="`Machines at ${open}`"
    description="What carries this location’s users, and why it takes just these."
    :ui="{ content: 'max-w-2xl' }"
  >
    <template #body>
      <div v-if="size && location" class="sizing">
        <div class="top">
          <URadioGroup
            aria-label="How they are chosen"
            orientation="horizontal"
            :model-value="location.choose === 'cheapest' ? 'cheapest' : 'pinned'"
            :items="[
              { value: 'cheapest', label: 'the cheapest that carry its users' },
              { value: 'pinned', label: `pinned: ${location.machines === 'auto' ? 'as many as needed' : location.machines} × ${location.machineType}` },
            ]"
            @update:model-value="value => choose(value === 'cheapest')"
          />
          <UButton v-if="location.choose === 'cheapest' && size.machines.length === 1" size="sm" @click="pin">
            Pin these
          </UButton>
        </div>
        <UCheckbox
          v-if="size.machines.some(m => m.shift) || plan().sizing?.allThrough"
          class="late"
          :model-value="!plan().sizing?.allThrough"
          @update:model-value="store.fix({ kind: 'setSizing', allThrough: !plan().sizing?.allThrough })"
        ><template #label>machines needed only for the peak come late and leave early, where that saves
          <span class="q">all locations</span></template></UCheckbox>
        <p v-if="late" class="q s12">
          Those for the peak are ordered {{ duration(late.leadMs) }} before their first user, while the run loads; users
          above the first {{ count(late.others) }} here are theirs.
        </p>
        <p v-if="size.unfit" class="brick" role="alert">
          <AGlyph name="inTheWay" word="nothing fits" /> {{ size.binds }}
        </p>
        <ListTable
          v-if="size.machines.length"
          plain
          name="machines taken"
          :rows="size.machines"
          :columns="MACHINES"
          :row-key="m => `${m.type.name} ${m.interruptible} ${!!m.shift}`"
        >
          <template #machines="{ row }">
            <b>{{ row.count }} × {{ row.type.name }}</b> <span v-if="row.interruptible" class="q">interruptible</span>
            <span v-if="row.shift" class="q">for the peak, {{ sayShift(row.shift) }}</span>
          </template>
          <template #carries="{ row }">
            <span :class="sure ? 'measured' : 'assumed'">{{ count(Math.floor(row.carries)) }} users</span>
          </template>
          <template #perHour="{ row }">{{ euro(row.perHour) }}</template>
          <template #cost="{ row }"><span class="planned">{{ euro(row.cost) }}</span></template>
          <template #foot-machines>{{ count(size.users) }} users at its heaviest moment</template>
          <template #foot-carries>{{ count(size.carries) }} carried</template>
          <template #foot-perHour>{{ euro(size.perHour) }}</template>
          <template #foot-cost>{{ euro(size.cost) }}</template>
        </ListTable>
        <div v-if="size.loads.length" class="loads">
          <div v-for="l in size.loads" :key="l.signal + l.peak" class="load">
            <span>{{ saySignalLoad(l) }} <span class="q">{{ l.type }}{{ l.peak ? ', peak' : '' }}</span></span>
            <span class="gauge"><i :class="{ over: l.share > 1 }" :style="{ width: `${Math.min(100, l.share * 100)}%` }" /><em
              v-if="l === size.loads[0] && onceLost(size) > l.share + 0.001"
              :style="{ left: `${Math.min(100, onceLost(size) * 100)}%` }"
              title="with the spares lost"
            /></span>
            <span class="num">{{ Math.round(l.share * 100) }} %</span>
          </div>
          <p class="q s12">
            Of what the machines may bear: the limits less headroom.
            {{
              onceLost(size) > size.loads[0]!.share + 0.001
                ? 'The tick is where the fullest would be with the spares lost.'
                : ''
            }}
          </p>
        </div>
        <p v-if="size.machines.length">
          {{ size.binds }} <span class="q">Left: {{ size.slack }}.</span>
        </p>
        <p class="q s12">
          Capacity is {{ BASIS_WORDS[size.basis] }}.
          <NuxtLink v-for="(id, i) in size.basedOn" :key="id" :to="`/fleet/capacity/${id}`" class="u">{{
            i === 0 ? 'See what it rests on' : `and ${i + 1}`
          }}</NuxtLink>
        </p>
        <ProblemNote v-if="problem" :problem="problem" />
        <p v-if="size.machines.length">
          <UButton size="sm" :aria-disabled="busy" @click="verify">
            {{ busy ? 'Trying the journeys…' : `Verify on one ${size.machines[0]!.type.name}` }}
          </UButton> <span class="q s12">holds the mix of these users, {{ count(Math.floor(size.machines[0]!.carries)) }} of them, on one machine,
            against the built-in sink: about 2 min</span>
        </p>
        <template v-if="size.choices.length || size.remedies.length">
          <h2>{{ size.unfit ? 'Any one of these would do' : 'Other choices' }}</h2>
          <ul>
            <li v-for="c in size.choices" :key="c.sentence">
              <span><b>{{ c.kind === 'safer' ? 'Safer.' : 'Cheaper.' }}</b> {{ c.sentence }}</span><span class="num">{{ difference(c.cost) }}</span>
            </li>
            <li v-for="r in size.remedies" :key="r.sentence">
              <span>{{ r.sentence }}</span><span class="num"><template v-if="r.cost !== undefined">{{ euro(r.cost) }} in all</template> <UButton
                v-if="r.change"
                size="sm"
                @click="store.fix({ kind: 'setSizing', ...r.change })"
              >
                Take it
              </UButton></span>
            </li>
          </ul>
        </template>
      </div>
      <p v-else class="q">Its region or machine type is not offered now: nothing can be sized.</p>
    </template>
  </UModal>
</template>

<style scoped>
.sizing {
  display: grid;
  gap: 8px;
}
.top {
  display: flex;
  gap: 12px;
  align-items: center;
  justify-content: space-between;
}
fieldset {
  display: flex;
  gap: 16px;
  flex-wrap: wrap;
}
.loads {
  display: grid;
  gap: 3px;
}
.load {
  display: grid;
  grid-template-columns: 210px 1fr 46px;
  gap: 10px;
  align-items: center;
  font-size: 12.5px;
}
.gauge {
  height: 9px;
  border: 1px solid var(--edge);
  position: relative;
  background: var(--panel);
}
.gauge i {
  position: absolute;
  left: 0;
  top: 0;
  bottom: 0;
  background: var(--ink);
}
.gauge i.over {
  background: var(--brick);
}
.gauge em {
  position: absolute;
  top: -3px;
  bottom: -3px;
  width: 0;
  border-left: 2px solid var(--plan);
}
li {
  display: flex;
  gap: 12px;
  justify-content: space-between;
  border-top: 1px solid var(--hair);
  padding: 4px 0;
  font-size: 12.5px;
}
</style>
