<script setup lang="ts">
/** Under the placement grid: per location the users at peak, the load of its machines, what is taken and what it costs. Rows of the same grid. */
import type { PlanCheck } from '~~/api/views'
import { count, euro } from '~/format/figures'

const { check, cells, peak } = defineProps<{ check: PlanCheck | undefined, cells: number[][], peak: number }>()
const emit = defineEmits<{ complain: [sentence: string | undefined] }>()
const store = usePlan()
const plan = computed(() => store.plan!)
const sizeOf = (code: string) => check?.sizes.find(s => s.code === code)
const typesAt = (provider: string, region: string) => store.view?.offers[provider]?.find(o => o.region === region)?.types ?? []

function setMachines(code: string, text: string): boolean {
  const n = text.trim() === '' || text.trim() === 'auto' ? 'auto' : Number(text)
  if (n !== 'auto' && !(Number.isInteger(n) && n >= 0 && n <= 1000)) {
    emit('complain', `“${text}” is no number of machines: type 0 to 1 000, or “auto”.`)
    return false
  }
  emit('complain', undefined)
  store.edit((p) => { p.locations.find(l => l.code === code)!.machines = n })
  return true
}
function setPerVcpu(text: string): boolean {
  const n = Number(text)
  if (!Number.isInteger(n) || n < 1 || n > 100_000) return false
  store.edit((p) => { p.assumedUsersPerVcpu = n })
  return true
}
</script>

<template>
  <div role="row" class="row foot">
    <div role="rowheader" class="ft b fix1">users at peak</div><div class="ft fix2" role="gridcell" />
    <div v-for="(l, c) in plan.locations" :key="l.code" class="ft b end" role="gridcell">{{ count(cells.reduce((s, row) => s + row[c]!, 0)) }}</div>
    <div class="ft last" role="gridcell"><b>{{ count(peak) }}</b><span class="q">at once</span></div>
  </div>
  <div role="row" class="row foot">
    <div role="rowheader" class="ft fix1">load of the fleet</div><div class="ft q s11 fix2" role="gridcell">users per vCPU assumed</div>
    <div v-for="l in plan.locations" :key="l.code" class="ft" role="gridcell">
      <template v-if="sizeOf(l.code)?.capacity">
        <span class="gauge"><i :style="{ width: `${Math.min(100, sizeOf(l.code)!.users / sizeOf(l.code)!.capacity * 100)}%` }" /></span>
        <span class="assumed" :class="{ over: sizeOf(l.code)!.users > sizeOf(l.code)!.capacity }">{{ Math.round(sizeOf(l.code)!.users / sizeOf(l.code)!.capacity * 100) }} %</span>
      </template>
      <span v-else class="q">–</span>
    </div>
    <div class="ft last" role="gridcell"><label class="perVcpu"><span class="sr">Users per vCPU assumed</span><DraftInput :value="plan.assumedUsersPerVcpu" class="small" inputmode="numeric" :accept="setPerVcpu" /> per vCPU</label></div>
  </div>
  <div role="row" class="row foot">
    <div role="rowheader" class="ft fix1">machines</div><div class="ft q s11 fix2" role="gridcell">“auto” takes what the users need</div>
    <div v-for="l in plan.locations" :key="l.code" class="ft" role="gridcell">
      <DraftInput class="small" :value="l.machines" :aria-label="`Machines at ${l.code}`" :accept="text => setMachines(l.code, text)" /><span v-if="l.machines === 'auto' && sizeOf(l.code)" class="q">{{ sizeOf(l.code)!.machines }} ×</span>
      <select class="type" :value="l.machineType" :aria-label="`Machine type at ${l.code}`" @change="store.edit(p => { p.locations.find(x => x.code === l.code)!.machineType = ($event.target as HTMLSelectElement).value })">
        <option v-if="!typesAt(l.provider, l.region).some(t => t.name === l.machineType)">{{ l.machineType }}</option>
        <option v-for="t in typesAt(l.provider, l.region)" :key="t.name">{{ t.name }}</option>
      </select>
    </div>
    <div class="ft last" role="gridcell"><b>{{ check?.sizes.reduce((s, x) => s + x.machines, 0) ?? '–' }}</b><span class="q">no spares</span></div>
  </div>
  <div role="row" class="row foot">
    <div role="rowheader" class="ft fix1">quota, cost</div><div class="ft q s11 fix2" role="gridcell">on demand</div>
    <div v-for="l in plan.locations" :key="l.code" class="ft" role="gridcell">
      <template v-if="sizeOf(l.code)"><span class="q">{{ sizeOf(l.code)!.quotaMost - sizeOf(l.code)!.quotaUsed }} of {{ sizeOf(l.code)!.quotaMost }} free</span><span>{{ euro(sizeOf(l.code)!.perHour) }}/h</span></template><span v-else class="q">not known</span>
    </div>
    <div class="ft last end" role="gridcell"><b>{{ euro(check?.perHour ?? 0) }}/h</b></div>
  </div>
</template>

<style scoped>
.b { font-weight: 600; }
.foot > div { height: 24px; border-bottom: 0; display: flex; align-items: center; justify-content: space-between; gap: 6px; font-size: 12.5px; background: var(--bg); }
.foot .end { justify-content: flex-end; }
.gauge { width: 46px; height: 9px; border: 1px solid var(--edge); position: relative; background: var(--panel); flex: none; }
.gauge i { position: absolute; left: 0; top: 0; bottom: 0; background: var(--ink); }
.over { color: var(--plantx); font-weight: 620; }
.small { width: 40px; height: 20px; border: 1px solid transparent; border-radius: 3px; background: none; padding: 0 3px; }
.small:hover, .small:focus { border-color: var(--edge); background: var(--panel); }
.type { height: 20px; font-size: 12px; background: none; color: var(--ink); border-radius: 3px; max-width: 74px; }
.type option { background: var(--panel); }
</style>
