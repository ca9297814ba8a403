<script setup lang="ts">
/**
 * Under the placement grid: per location the users at peak, the load of its machines, what is taken and what it costs.
 * Rows of the same grid.
 */
import { takeNumber } from '~/format/numbers'
import { ownOf } from '~~/core/values/own'
import type { PlanCheck } from '~~/api/views'
import { USUAL_HEADROOM } from '~~/core/capacity/capacity'
import { UNSURE } from '~~/core/fleet/capacity-book'
import { count, euro } from '~~/core/values/said-figures'
import { loadWord, machinesOf, onceLost, sayTaken } from '~/format/sizing'
import { locationOf } from '~~/core/plan/in-plan'

const { check, cells, peak } = defineProps<{ check: PlanCheck | undefined, cells: number[][], peak: number }>()
const emit = defineEmits<{ complain: [sentence: string | undefined], sizing: [code: string] }>()
const store = usePlan()
// It is drawn only where there is a plan.
const plan = computed(() => store.plan!)
const sizes = computed(() => new Map((check?.sizes ?? []).map(s => [s.code, s])))
const sizeOf = (code: string) => sizes.value.get(code)
const typesAt = (provider: string, region: string) =>
  ownOf(store.view?.offers, provider)?.find(o => o.region === region)?.types ?? []

/** Value of the choice that leaves types and numbers to the solver; no provider names a type so. */
const CHEAPEST = '*'
const fullest = (code: string) => sizeOf(code)?.loads[0]?.share ?? 0
const sure = (code: string) => !UNSURE.includes(sizeOf(code)?.basis ?? 'assumed')
const percentOf = (share: number) => Math.round(share * 100)
const sparesWord = computed(() => {
  const spares = plan.value.sizing?.spares ?? 0
  return spares === 0 ? 'no spares' : `with ${spares} ${spares === 1 ? 'spare' : 'spares'} each`
})

function setType(code: string, type: string): void {
  store.edit((p) => {
    const at = locationOf(p, code)
    if (type === CHEAPEST) {
      at.choose = 'cheapest'
      return
    }
    Reflect.deleteProperty(at, 'choose')
    at.machineType = type
  })
}
/** A row of the grid has no room for a sentence: the grid tells it below. */
function told(taken: true | string): boolean {
  emit('complain', taken === true ? undefined : taken)
  return taken === true
}
const setSpares = (text: string) =>
  told(takeNumber(text, { min: 0, max: 20, whole: true }, n => store.fix({ kind: 'setSizing', spares: n })))
const setHeadroom = (text: string) =>
  told(takeNumber(text.replace('%', ''), { min: 0, max: 90 }, n => store.fix({ kind: 'setSizing', headroom: n / 100 })))
function setMachines(code: string, text: string): boolean {
  const set = (n: number | 'auto') =>
    store.edit((p) => {
      locationOf(p, code).machines = n
    })
  if (!['', 'auto'].includes(text.trim())) {
    const taken = takeNumber(text, { min: 0, max: 1000, whole: true }, set)
    return told(taken === true ? taken : `${taken} “auto” takes as many as are needed.`)
  }
  set('auto')
  return told(true)
}
const setPerVcpu = (text: string) =>
  told(takeNumber(text, { min: 1, max: 100_000, whole: true }, n =>
    store.edit((p) => {
      p.assumedUsersPerVcpu = n
    })))
</script>

<template>
  <div role="row" class="row foot">
    <div role="rowheader" class="ft b fix1">users at peak</div>
    <div class="ft fix2 q s11" role="gridcell">at each location’s heaviest moment</div>
    <div v-for="(l, c) in plan.locations" :key="l.code" class="ft b end" role="gridcell">
      {{ count(sizes.get(l.code)?.users ?? cells.reduce((s, row) => s + row[c]!, 0)) }}
    </div>
    <div class="ft last" role="gridcell">
      <b>{{ count(peak) }}</b><span class="q">at once</span>
    </div>
  </div>
  <div role="row" class="row foot">
    <div role="rowheader" class="ft fix1">load of the fleet</div>
    <div class="ft q s11 fix2" role="gridcell">
      <label>headroom
        <DraftInput
          class="tiny"
          size="xs"
          variant="ghost"
          :value="percentOf(plan.sizing?.headroom ?? USUAL_HEADROOM)"
          inputmode="numeric"
          aria-label="Headroom, %"
          told-elsewhere
          :accept="setHeadroom"
        />
        %</label>
    </div>
    <div v-for="l in plan.locations" :key="l.code" v-memo="[l, sizes.get(l.code), store.view]" class="ft" role="gridcell">
      <button
        v-if="sizeOf(l.code)?.loads.length"
        class="why"
        :aria-label="`How ${l.code} is sized`"
        :title="sizeOf(l.code)!.binds"
        @click="emit('sizing', l.code)"
      >
        <span class="gauge"><i :style="{ width: `${Math.min(100, fullest(l.code) * 100)}%` }" /><em
          v-if="onceLost(sizeOf(l.code)!) > fullest(l.code) + 0.001"
          :style="{ left: `${Math.min(100, onceLost(sizeOf(l.code)!) * 100)}%` }"
        /></span>
        <span :class="[sure(l.code) ? 'measured' : 'assumed', { over: fullest(l.code) > 1.0005 }]">{{ Math.round(fullest(l.code) * 100) }} %</span><span class="q s11">{{ loadWord(sizeOf(l.code)!.loads[0]!.signal) }}</span>
      </button>
      <button v-else-if="sizeOf(l.code)?.unfit" class="why brick" @click="emit('sizing', l.code)">
        <AGlyph name="inTheWay" word="in the way" /> nothing fits
      </button>
      <span v-else class="q">–</span>
    </div>
    <div class="ft last" role="gridcell">
      <label class="perVcpu"><DraftInput
        aria-label="Users per vCPU assumed"
        :value="plan.assumedUsersPerVcpu"
        class="small"
        size="xs"
        variant="ghost"
        inputmode="numeric"
        told-elsewhere
        :accept="setPerVcpu"
      /> per
        vCPU</label>
    </div>
  </div>
  <div role="row" class="row foot">
    <div role="rowheader" class="ft fix1">machines</div>
    <div class="ft q s11 fix2" role="gridcell">
      <label>spares
        <DraftInput
          class="tiny"
          size="xs"
          variant="ghost"
          :value="plan.sizing?.spares ?? 0"
          inputmode="numeric"
          aria-label="Spares"
          told-elsewhere
          :accept="setSpares"
        />
        may be lost</label>
    </div>
    <div v-for="l in plan.locations" :key="l.code" v-memo="[l, sizes.get(l.code), store.view]" class="ft" role="gridcell">
      <span v-if="l.choose === 'cheapest'" class="clip taken" :title="sizeOf(l.code) && sayTaken(sizeOf(l.code)!)">{{
        sizeOf(l.code) ? sayTaken(sizeOf(l.code)!) || '–' : '–'
      }}</span>
      <template v-else><DraftInput
        class="small"
        size="xs"
        variant="ghost"
        :value="l.machines"
        :aria-label="`Machines at ${l.code}`"
        told-elsewhere
        :accept="text => setMachines(l.code, text)"
      /><span
        v-if="l.machines === 'auto' && sizeOf(l.code)"
        class="q"
      >{{ machinesOf(sizeOf(l.code)!) }} ×</span></template>
      <PickOne
        class="type"
        size="xs"
        variant="ghost"
        :model-value="l.choose === 'cheapest' ? CHEAPEST : l.machineType"
        :aria-label="`Machine type at ${l.code}`"
        :items="[
          { value: CHEAPEST, label: 'cheapest' },
          ...typesAt(l.provider, l.region).map(t => ({ value: t.name, label: t.name })),
        ]"
        @update:model-value="value => setType(l.code, value)"
      />
    </div>
    <div class="ft last" role="gridcell">
      <b>{{ check?.sizes.reduce((s, x) => s + machinesOf(x), 0) ?? '–' }}</b><span class="q">{{ sparesWord }}</span>
    </div>
  </div>
  <div role="row" class="row foot">
    <div role="rowheader" class="ft fix1">quota, cost</div>
    <div class="ft q s11 fix2" role="gridcell">per hour, all there</div>
    <div v-for="l in plan.locations" :key="l.code" v-memo="[l, sizes.get(l.code), store.view]" class="ft" role="gridcell">
      <template v-if="sizeOf(l.code)"><span class="q">{{ sizeOf(l.code)!.quotaMost - sizeOf(l.code)!.quotaUsed }} of {{ sizeOf(l.code)!.quotaMost }} free</span><span>{{ euro(sizeOf(l.code)!.perHour) }}/h</span></template><span v-else class="q">not known</span>
    </div>
    <div class="ft last end" role="gridcell">
      <b>{{ euro(check?.perHour ?? 0) }}/h</b>
    </div>
  </div>
</template>

<style scoped>
.b {
  font-weight: 600;
}
.foot > div {
  height: 24px;
  border-bottom: 0;
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 6px;
  font-size: 12.5px;
  background: var(--bg);
}
.foot .end {
  justify-content: flex-end;
}
.gauge {
  width: 46px;
  height: 9px;
  border: 1px solid var(--edge);
  position: relative;
  background: var(--panel);
  flex: none;
}
.gauge i {
  position: absolute;
  left: 0;
  top: 0;
  bottom: 0;
  background: var(--ink);
}
.gauge em {
  position: absolute;
  top: -3px;
  bottom: -3px;
  width: 0;
  border-left: 2px solid var(--plan);
}
.why {
  display: flex;
  align-items: center;
  gap: 6px;
  cursor: pointer;
  width: 100%;
  white-space: nowrap;
}
.why:hover .gauge {
  border-color: var(--ink);
}
.taken {
  flex: 1;
}
.over {
  color: var(--plantx);
  font-weight: 620;
}
.small {
  flex: none;
  width: 46px;
}
.tiny {
  width: 26px;
}
.type {
  max-width: 96px;
}
</style>
