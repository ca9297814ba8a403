<script setup lang="ts">
/**
 * The placement grid: groups by locations. Arrows move, typing replaces, Enter edits, Esc leaves; rows and blocks of a spreadsheet can be pasted, and the
 * shares copied. Column 0 is the level over time, then one column per location.
 */
import type { PlanCheck } from '~~/api/views'
import { levelAt } from '~~/core/load/profile'
import { printPhrase, readPhrase } from '~~/core/load/phrase'
import type { Share } from '~~/core/plan/document'
import { peakMoment } from '~~/core/plan/peak'
import { resolveShares, WHOLE_BP } from '~~/core/plan/shares'
import { usersPerCell } from '~~/core/plan/slice'
import { basisPoints, count, euro } from '~/format/figures'
import { readShare } from '~/format/shares'

const store = usePlan()
const plan = computed(() => store.plan!)
const { check, cursorMs } = defineProps<{ check: PlanCheck | undefined, cursorMs: number | undefined }>()
const at = ref<{ row: number, column: number }>({ row: 0, column: 1 })
const editing = ref<string>()
const complaint = ref<string>()
const grid = useTemplateRef<HTMLElement>('grid')

const cells = computed(() => usersPerCell({ plan: plan.value }))
const shares = computed(() => plan.value.groups.map(g => resolveShares(plan.value, g.letter)))
const placed = computed(() => cells.value.map(row => row.reduce((a, b) => a + b, 0)))
const peak = computed(() => peakMoment(plan.value).users)
const sizeOf = (code: string) => check?.sizes.find(s => s.code === code)
const shareOf = (letter: string, code: string): Share => plan.value.placement[letter]?.[code] ?? 0
const columns = computed(() => `minmax(150px, 190px) minmax(150px, 230px) repeat(${plan.value.locations.length}, minmax(104px, 1fr)) 124px`)
const selected = (row: number, column: number) => at.value.row === row && at.value.column === column

function textAt(row: number, column: number): string {
  const group = plan.value.groups[row]!
  if (column === 0) return printPhrase(group.profile)
  const share = shareOf(group.letter, plan.value.locations[column - 1]!.code)
  return share === 'rest' ? 'rest' : share === 0 ? '' : String(share / 100)
}

/** Writes what was typed into a cell. @returns false when it is not understood; the text then stays in the cell */
function write(row: number, column: number, text: string): boolean {
  const group = plan.value.groups[row]!
  if (column === 0) {
    const reading = readPhrase(text)
    if (!reading.ok) {
      complaint.value = `${group.name}, at character ${reading.at + 1}: ${reading.problem}.`
      return false
    }
    store.edit((p) => { p.groups[row]!.profile = reading.profile })
  }
  else {
    const share = readShare(text)
    if (share === undefined) {
      complaint.value = `“${text}” is no share: type a number from 0 to 100, or “rest”.`
      return false
    }
    const { code } = plan.value.locations[column - 1]!
    store.edit((p) => { (p.placement[group.letter] ??= {})[code] = share })
  }
  complaint.value = undefined
  return true
}

function move(row: number, column: number): void {
  at.value = { row: Math.min(plan.value.groups.length - 1, Math.max(0, row)), column: Math.min(plan.value.locations.length, Math.max(0, column)) }
  grid.value?.querySelector<HTMLElement>(`[data-cell="${at.value.row}-${at.value.column}"]`)?.focus()
}

function begin(text: string): void {
  editing.value = text
  void nextTick(() => grid.value?.querySelector<HTMLInputElement>('input.edit')?.focus())
}

function finish(keep: boolean, then?: [rows: number, columns: number]): void {
  const { row, column } = at.value
  if (editing.value === undefined) return
  if (keep && !write(row, column, editing.value)) return
  if (!keep) complaint.value = undefined
  editing.value = undefined
  void nextTick(() => move(row + (then?.[0] ?? 0), column + (then?.[1] ?? 0)))
}

function onCellKey(event: KeyboardEvent): void {
  if (editing.value !== undefined || event.ctrlKey || event.metaKey || event.altKey) return
  const { row, column } = at.value
  const step: Record<string, [number, number]> = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }
  const by = step[event.key]
  if (by) move(row + by[0], column + by[1])
  else if (event.key === 'Enter' || event.key === 'F2') begin(textAt(row, column))
  else if (event.key === 'Delete' || event.key === 'Backspace') { if (column > 0) write(row, column, '') }
  else if (event.key.length === 1) begin(event.key)
  else return
  event.preventDefault()
}

function onEditKey(event: KeyboardEvent): void {
  event.stopPropagation()
  if (event.key === 'Enter') finish(true, [1, 0])
  else if (event.key === 'Tab') {
    event.preventDefault()
    finish(true, [0, event.shiftKey ? -1 : 1])
  }
  else if (event.key === 'Escape') finish(false)
}

function onPaste(event: ClipboardEvent): void {
  if (editing.value !== undefined) return
  event.preventDefault()
  const rows = (event.clipboardData?.getData('text/plain') ?? '').replace(/\r?\n$/, '').split(/\r?\n/).map(r => r.split('\t'))
  const { row, column } = at.value
  for (const [r, line] of rows.entries()) for (const [c, text] of line.entries()) {
    if (row + r >= plan.value.groups.length || column + c > plan.value.locations.length) continue
    if (!write(row + r, column + c, text)) return
  }
}

function onCopy(event: ClipboardEvent): void {
  if (editing.value !== undefined) return
  event.preventDefault()
  event.clipboardData?.setData('text/plain', plan.value.groups.map((g, r) => [g.name, textAt(r, 0), ...plan.value.locations.map((_, c) => textAt(r, c + 1))].join('\t')).join('\n'))
}

function setMachines(code: string, text: string): boolean {
  const n = text.trim() === '' || text.trim() === 'auto' ? 'auto' : Number(text)
  if (n !== 'auto' && !(Number.isInteger(n) && n >= 0 && n <= 1000)) {
    complaint.value = `“${text}” is no number of machines: type 0 to 1 000, or “auto”.`
    return false
  }
  complaint.value = undefined
  store.edit((p) => { p.locations.find(l => l.code === code)!.machines = n })
  return true
}
function setPerVcpu(text: string): boolean {
  const n = Number(text)
  if (!Number.isInteger(n) || n < 1 || n > 100_000) return false
  store.edit((p) => { p.assumedUsersPerVcpu = n })
  return true
}
const typesAt = (provider: string, region: string) => store.view?.offers[provider]?.find(o => o.region === region)?.types ?? []
const nowLevel = (row: number) => cursorMs === undefined ? undefined : Math.round(levelAt(plan.value.groups[row]!.profile, cursorMs))
</script>

<template>
  <div>
    <div ref="grid" class="grid panel" role="grid" aria-label="Placement" :style="{ gridTemplateColumns: columns }" @paste="onPaste" @copy="onCopy">
      <div role="row" class="row">
        <div role="columnheader" class="hd"><h2>Placement</h2></div>
        <div role="columnheader" class="hd q">level over time</div>
        <div v-for="l in plan.locations" :key="l.code" role="columnheader" class="hd"><LocationCode :code="l.code" /> <span class="clip">{{ l.region }}</span></div>
        <div role="columnheader" class="hd last">placed</div>
      </div>
      <div v-for="(g, r) in plan.groups" :key="g.letter" role="row" class="row">
        <div role="rowheader" class="rw">
          <div class="name"><GroupTag :letter="g.letter" /><b class="clip">{{ g.name }}</b></div>
          <div class="net under clip"><select class="journey" :value="g.journeyId" :aria-label="`Journey of ${g.name}`" @change="store.edit((p) => { p.groups[r]!.journeyId = ($event.target as HTMLSelectElement).value })"><option v-if="!store.view?.journeys.some(j => j.id === g.journeyId)" :value="g.journeyId">unknown journey</option><option v-for="j in store.view?.journeys ?? []" :key="j.id" :value="j.id">{{ j.name }}</option></select><template v-if="nowLevel(r) !== undefined"> · <span class="planned">{{ count(nowLevel(r)!) }}</span></template></div>
        </div>
        <div
          role="gridcell" class="rw score" :class="{ foc: selected(r, 0) }" :tabindex="selected(r, 0) ? 0 : -1" :data-cell="`${r}-0`" :aria-label="`${g.name}, level over time: ${textAt(r, 0)}`"
          @focus="at = { row: r, column: 0 }" @keydown="onCellKey" @dblclick="begin(textAt(r, 0))"
        >
          <input v-if="selected(r, 0) && editing !== undefined" v-model="editing" class="edit" :aria-invalid="!!complaint" @keydown="onEditKey" @blur="finish(true)">
          <template v-else>{{ textAt(r, 0) }}</template>
        </div>
        <div
          v-for="(l, c) in plan.locations" :key="l.code" role="gridcell" class="rw" :class="{ foc: selected(r, c + 1) }" :tabindex="selected(r, c + 1) ? 0 : -1" :data-cell="`${r}-${c + 1}`"
          :aria-label="`${g.name} at ${l.code}: ${basisPoints(shares[r]!.bp[c]!)}, ${cells[r]![c]} users`" @focus="at = { row: r, column: c + 1 }" @keydown="onCellKey" @dblclick="begin(textAt(r, c + 1))"
        >
          <input v-if="selected(r, c + 1) && editing !== undefined" v-model="editing" class="edit" :aria-invalid="!!complaint" @keydown="onEditKey" @blur="finish(true)">
          <template v-else-if="shares[r]!.bp[c]! > 0 || shareOf(g.letter, l.code) === 'rest'">
            <div class="share"><span class="sh"><span v-if="shareOf(g.letter, l.code) === 'rest'" class="rest">rest </span>{{ basisPoints(shares[r]!.bp[c]!) }}</span><span>{{ count(cells[r]![c]!) }}</span></div>
            <div class="net">direct</div>
            <i class="bar" :style="{ width: `${shares[r]!.bp[c]! / 100}%`, background: `var(--g${g.letter.charCodeAt(0) - 64})` }" />
          </template>
          <span v-else class="q">–</span>
        </div>
        <div class="rw last" :class="{ miss: shares[r]!.totalBp !== WHOLE_BP }" role="gridcell">
          <div class="share"><span class="sh">{{ basisPoints(shares[r]!.totalBp) }}</span><span>{{ count(placed[r]!) }}</span></div>
          <div class="net">{{ shares[r]!.totalBp === WHOLE_BP ? 'all placed' : shares[r]!.totalBp < WHOLE_BP ? `${basisPoints(WHOLE_BP - shares[r]!.totalBp)} missing` : `${basisPoints(shares[r]!.totalBp - WHOLE_BP)} too much` }}</div>
        </div>
      </div>
      <div role="row" class="row foot">
        <div role="rowheader" class="ft b">users at peak</div><div class="ft" role="gridcell" />
        <div v-for="(l, c) in plan.locations" :key="l.code" class="ft b end" role="gridcell">{{ count(cells.reduce((s, row) => s + row[c]!, 0)) }}</div>
        <div class="ft last" role="gridcell"><b>{{ count(peak) }}</b><span class="q">at once</span></div>
      </div>
      <div role="row" class="row foot">
        <div role="rowheader" class="ft">load of the fleet</div><div class="ft q s11" role="gridcell">users per vCPU assumed</div>
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
        <div role="rowheader" class="ft">machines</div><div class="ft q s11" role="gridcell">“auto” takes what the users need</div>
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
        <div role="rowheader" class="ft">quota, cost</div><div class="ft q s11" role="gridcell">on demand</div>
        <div v-for="l in plan.locations" :key="l.code" class="ft" role="gridcell">
          <template v-if="sizeOf(l.code)"><span class="q">{{ sizeOf(l.code)!.quotaMost - sizeOf(l.code)!.quotaUsed }} of {{ sizeOf(l.code)!.quotaMost }} free</span><span>{{ euro(sizeOf(l.code)!.perHour) }}/h</span></template><span v-else class="q">not known</span>
        </div>
        <div class="ft last end" role="gridcell"><b>{{ euro(check?.perHour ?? 0) }}/h</b></div>
      </div>
    </div>
    <p v-if="complaint" class="complaint brick" role="alert"><AGlyph name="inTheWay" word="not understood" /> {{ complaint }} <span class="q">Esc takes it back.</span></p>
  </div>
</template>

<style scoped>
.grid { display: grid; overflow: hidden; }
.row { display: contents; }
.row > div { border-bottom: 1px solid var(--hair); border-right: 1px solid var(--hair); padding: 0 8px; min-width: 0; overflow: hidden; white-space: nowrap; position: relative; }
.row > .last { border-right: 0; }
.hd { height: 28px; display: flex; align-items: center; gap: 6px; font-size: 12px; background: var(--bg); }
.rw { height: 44px; padding-top: 3px !important; }
.name { display: flex; gap: 6px; line-height: 19px; align-items: center; font-stretch: 94%; }
.share { display: flex; justify-content: space-between; align-items: baseline; line-height: 19px; gap: 6px; }
.sh { font-weight: 620; font-size: 14px; }
.rest { font-weight: 400; font-size: 11px; color: var(--quiet); }
.net { font-size: 11.5px; line-height: 15px; color: var(--quiet); font-stretch: 86%; }
.under { padding-left: 22px; }
.score { font-size: 12px; line-height: 17px; font-stretch: 90%; white-space: normal !important; }
.bar { position: absolute; left: 0; bottom: 0; height: 3px; }
.foc { outline: 2px solid var(--act); outline-offset: -2px; background: var(--sel); }
.miss { background: var(--brickbg); color: var(--brick); }
.miss .net { color: var(--brick); }
.foot > div { height: 24px; border-bottom: 0; display: flex; align-items: center; justify-content: space-between; gap: 6px; font-size: 12.5px; background: var(--bg); }
.foot .end { justify-content: flex-end; }
.b { font-weight: 600; }
.gauge { width: 46px; height: 9px; border: 1px solid var(--edge); position: relative; background: var(--panel); flex: none; }
.gauge i { position: absolute; left: 0; top: 0; bottom: 0; background: var(--ink); }
.over { color: var(--plantx); font-weight: 620; }
.edit { width: 100%; height: 38px; background: var(--panel); outline: 2px solid var(--act); border-radius: 2px; padding: 0 4px; }
.edit[aria-invalid='true'] { outline-color: var(--brick); }
.small { width: 40px; height: 20px; border: 1px solid transparent; border-radius: 3px; background: none; padding: 0 3px; }
.small:hover, .small:focus { border-color: var(--edge); background: var(--panel); }
.type { height: 20px; font-size: 12px; background: none; color: var(--ink); border-radius: 3px; max-width: 74px; }
.type option { background: var(--panel); }
.complaint { padding: 4px 2px 0; font-size: 12.5px; }
.journey { background: none; font-size: inherit; color: inherit; max-width: 130px; text-overflow: ellipsis; margin-left: -4px; cursor: pointer; }
</style>
