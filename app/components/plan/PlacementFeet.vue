<script setup lang="ts">
/**
 * Under the placement grid: per location the users at peak, the load of its machines, what is taken and what it costs.
 * Rows of the same grid.
 */
import { ownOf } from '~~/core/values/own'
import type { PlanCheck } from '~~/api/views'
import { USUAL_HEADROOM } from '~~/core/capacity/capacity'
import { UNSURE } from '~~/core/fleet/capacity-book'
import { count, euro } from '~/format/figures'
import { loadWord, machinesOf, sayTaken } from '~/format/sizing'

const { check, cells, peak } = defineProps<{ check: PlanCheck | undefined, cells: number[][], peak: number }>()
const emit = defineEmits<{ complain: [sentence: string | undefined], sizing: [code: string] }>()
const store = usePlan()
const plan = computed(() => store.plan!)
const sizeOf = (code: string) => check?.sizes.find(s => s.code === code)
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
    const at = p.locations.find(l => l.code === code)!
    if (type === CHEAPEST) {
      at.choose = 'cheapest'
      return
    }
    Reflect.deleteProperty(at, 'choose')
    at.machineType = type
  })
}
function setSpares(text: string): boolean {
  const n = Number(text)
  if (!Number.isInteger(n) || n < 0 || n > 20 || text.trim() === '') {
    emit('complain', `“${text}” is no number of spares: type 0 to 20.`)
    return false
  }
  emit('complain', undefined)
  store.mend({ kind: 'setSizing', spares: n })
  return true
}
function setHeadroom(text: string): boolean {
  const n = Number(text.replace('%', ''))
  if (!(n >= 0 && n <= 90) || text.trim() === '') {
    emit('complain', `“${text}” is no headroom: type 0 to 90 %.`)
    return false
  }
  emit('complain', undefined)
  store.mend({ kind: 'setSizing', headroom: n / 100 })
  return true
}
function setMachines(code: string, text: string): boolean {
  const n = text.trim() === '' || text.trim() === 'auto' ? 'auto' : Number(text)
  if (n !== 'auto' && !(Number.isInteger(n) && n >= 0 && n <= 1000)) {
    emit('complain', `“${text}” is no number of machines: type 0 to 1 000, or “auto”.`)
    return false
  }
  emit('complain', undefined)
  store.edit((p) => {
    p.locations.find(l => l.code === code)!.machines = n
  })
  return true
}
function setPerVcpu(text: string): boolean {
  const n = Number(text)
  if (!Number.isInteger(n) || n < 1 || n > 100_000) return false
  store.edit((p) => {
    p.assumedUsersPerVcpu = n
  })
  return true
}
</script>

<template>
  <div role="row" class="row foot">
    <div role="rowheader" class="ft b fix1">users at peak</div>
    <div class="ft fix2 q s11" role="gridcell">at each location’s heaviest moment</div>
    <div v-for="(l, c) in plan.locations" :key="l.code" class="ft b end" role="gridcell">
      {{ count(sizeOf(l.code)?.users ?? cells.reduce((s, row) => s + row[c]!, 0)) }}
    </div>
    <div class="ft last" role="gridcell">
      <b>{{ count(peak) }}</b
      ><span class="q">at once</span>
    </div>
  </div>
  <div role="row" class="row foot">
    <div role="rowheader" class="ft fix1">load of the fleet</div>
    <div class="ft q s11 fix2" role="gridcell">
      <label
      >headroom
        <DraftInput
          class="small tiny"
          :value="percentOf(plan.sizing?.headroom ?? USUAL_HEADROOM)"
          inputmode="numeric"
          aria-label="Headroom, %"
          :accept="setHeadroom"
        />
        %</label
      >
    </div>
    <div v-for="l in plan.locations" :key="l.code" class="ft" role="gridcell">
      <button
        v-if="sizeOf(l.code)?.loads.length"
        class="why"
        :aria-label="`How ${l.code} is sized`"
        :title="sizeOf(l.code)!.binds"
        @click="emit('sizing', l.code)"
      >
        <span class="gauge"
        ><i :style="{ width: `${Math.min(100, fullest(l.code) * 100)}%` }" /><em
          v-if="sizeOf(l.code)!.withSparesLost > fullest(l.code) + 0.001"
          :style="{ left: `${Math.min(100, sizeOf(l.code)!.withSparesLost * 100)}%` }"
        /></span>
        <span :class="[sure(l.code) ? 'measured' : 'assumed', { over: fullest(l.code) > 1.0005 }]"
        >{{ Math.round(fullest(l.code) * 100) }} %</span
        ><span class="q s11">{{ loadWord(sizeOf(l.code)!.loads[0]!.signal) }}</span>
      </button>
      <button v-else-if="sizeOf(l.code)?.unfit" class="why brick" @click="emit('sizing', l.code)">
        <AGlyph name="inTheWay" word="in the way" /> nothing fits
      </button>
      <span v-else class="q">–</span>
    </div>
    <div class="ft last" role="gridcell">
      <label class="perVcpu"
      ><span class="sr">Users per vCPU assumed</span
      ><DraftInput :value="plan.assumedUsersPerVcpu" class="small" inputmode="numeric" :accept="setPerVcpu" /> per
        vCPU</label
      >
    </div>
  </div>
  <div role="row" class="row foot">
    <div role="rowheader" class="ft fix1">machines</div>
    <div class="ft q s11 fix2" role="gridcell">
      <label
      >spares
        <DraftInput
          class="small tiny"
          :value="plan.sizing?.spares ?? 0"
          inputmode="numeric"
          aria-label="Spares"
          :accept="setSpares"
        />
        may be lost</label
      >
    </div>
    <div v-for="l in plan.locations" :key="l.code" class="ft" role="gridcell">
      <span v-if="l.choose === 'cheapest'" class="clip taken" :title="sizeOf(l.code) && sayTaken(sizeOf(l.code)!)">{{
        sizeOf(l.code) ? sayTaken(sizeOf(l.code)!) || '–' : '–'
      }}</span>
      <template v-else
      ><DraftInput
        class="small"
        :value="l.machines"
        :aria-label="`Machines at ${l.code}`"
        :accept="text => setMachines(l.code, text)"
      /><span v-if="l.machines === 'auto' && sizeOf(l.code)" class="q"
      >{{ machinesOf(sizeOf(l.code)!) }} ×</span
      ></template
      >
      <select
        class="type"
        :value="l.choose === 'cheapest' ? CHEAPEST : l.machineType"
        :aria-label="`Machine type at ${l.code}`"
        @change="setType(l.code, ($event.target as HTMLSelectElement).value)"
      >
        <option :value="CHEAPEST">cheapest</option>
        <option v-if="!typesAt(l.provider, l.region).some(t => t.name === l.machineType)">{{ l.machineType }}</option>
        <option v-for="t in typesAt(l.provider, l.region)" :key="t.name">{{ t.name }}</option>
      </select>
    </div>
    <div class="ft last" role="gridcell">
      <b>{{ check?.sizes.reduce((s, x) => s + machinesOf(x), 0) ?? '–' }}</b
      ><span class="q">{{ sparesWord }}</span>
    </div>
  </div>
  <div role="row" class="row foot">
    <div role="rowheader" class="ft fix1">quota, cost</div>
    <div class="ft q s11 fix2" role="gridcell">per hour, all there</div>
    <div v-for="l in plan.locations" :key="l.code" class="ft" role="gridcell">
      <template v-if="sizeOf(l.code)"
      ><span class="q"
      >{{ sizeOf(l.code)!.quotaMost - sizeOf(l.code)!.quotaUsed }} of {{ sizeOf(l.code)!.quotaMost }} free</span
      ><span>{{ euro(sizeOf(l.code)!.perHour) }}/h</span></template
      ><span v-else class="q">not known</span>
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
  width: 34px;
  height: 20px;
  border: 1px solid transparent;
  border-radius: 3px;
  background: none;
  padding: 0 3px;
}
.tiny {
  width: 24px;
  text-align: right;
}
.small:hover,
.small:focus {
  border-color: var(--edge);
  background: var(--panel);
}
.type {
  height: 20px;
  font-size: 12px;
  background: none;
  color: var(--ink);
  border-radius: 3px;
  max-width: 74px;
}
.type option {
  background: var(--panel);
}
</style>
