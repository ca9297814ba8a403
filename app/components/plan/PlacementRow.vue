<script setup lang="ts">
/** A group’s row of the placement grid. It is drawn anew where something of its own changed, and so is each cell. */
import { BY_USERS, LEVEL_UNITS } from '~~/core/load/drive'
import { printPhrase } from '~~/core/load/phrase'
import type { Group } from '~~/core/plan/document'
import { WHOLE_BP } from '~~/core/plan/shares'
import { basisPoints, count } from '~~/core/values/said-figures'
import { printMix, type Mix } from '~/format/mixes'
import type { CellGridHands } from '~/composables/cell-grid'
import type { RowOfCells } from './placement-cells'

/** `at`: which row. `levelNow`, `usersNow` by location: at the moment one points at; left out: one points at none. */
const { group, at, grid } = defineProps<{
  group: Group
  at: number
  row: RowOfCells
  /** Of the locations, in their order. */
  codes: readonly string[]
  grid: CellGridHands
  journeys: { value: string, label: string }[]
  isChosenGroup: boolean
  levelNow: number | undefined
  usersNow: readonly number[] | undefined
}>()
const emit = defineEmits<{ open: [], chosen: [] }>()
const store = usePlan()
const { editing, complaint } = grid
/** Column of the cursor; −1: it is in another row. */
const cursor = computed(() => (grid.at.value.row === at ? grid.at.value.column : -1))
/** What of the row is chosen, from and to; the same text as long as it is the same. */
const chosen = computed(() => {
  const { top, bottom, left, right } = grid.block.value
  return at >= top && at <= bottom ? `${left} ${right}` : ''
})
const edges = computed(() => chosen.value.split(' ').map(Number))
const isChosen = (column: number) => chosen.value !== '' && column >= edges.value[0]! && column <= edges.value[1]!
const phrase = computed(() => printPhrase(group.profile))
const kind = computed(() => (group.drive ?? BY_USERS).kind)
const colour = computed(() => `var(--g${((group.letter.charCodeAt(0) - 65) % 8) + 1})`)
const clientsIn = (mix: Mix) => {
  const n = Object.keys(mix).length
  return n === 1 ? '1 client' : `${n} clients`
}
function focused(column: number): void {
  // Of several chosen cells the first one stays where it is.
  if (!isChosen(column)) grid.choose(at, column)
  emit('chosen')
}
</script>

<template>
  <div role="row" class="row">
    <div
      role="rowheader"
      class="rw fix1"
      :class="{ chosen: isChosenGroup }"
    >
      <button class="name" :aria-label="`Group ${group.letter}, ${group.name}`" @click="emit('open')">
        <GroupTag :letter="group.letter" /><b class="clip">{{ group.name }}</b>
      </button>
      <div class="net under clip">
        <PickOne
          size="sm"
          variant="ghost"
          class="journey"
          :model-value="group.journeyId"
          :aria-label="`Journey of ${group.name}`"
          placeholder="choose a journey"
          :items="journeys"
          @update:model-value="
            id =>
              store.edit(p => {
                p.groups[at]!.journeyId = id
              })
          "
        />
        <span v-if="group.clients" class="q" :title="printMix(group.clients)">{{ clientsIn(group.clients) }}</span>
      </div>
    </div>
    <div
      role="gridcell"
      class="rw score fix2"
      :class="{ foc: cursor === 0, sel: isChosen(0) }"
      :tabindex="cursor === 0 ? 0 : -1"
      :data-cell="`${at}-0`"
      :aria-label="`${group.name}, level over time: ${phrase}`"
      :title="phrase"
      @focus="focused(0)"
      @keydown="grid.onCellKey"
      @dblclick="grid.begin(grid.textAt(at, 0))"
    >
      <input
        v-if="cursor === 0 && editing !== undefined"
        v-model="editing"
        class="edit"
        :aria-label="`Level of ${group.name}`"
        :aria-invalid="!!complaint"
        @keydown="grid.onEditKey"
        @blur="grid.finish(true)"
      >
      <template v-else><span class="two">{{ phrase || 'type a level over time' }}</span><span
        v-if="kind !== 'users' || group.passes || group.thinkScale || levelNow !== undefined"
        class="unit"
      ><template v-if="levelNow !== undefined"><span class="planned">{{
        kind === 'users' ? count(levelNow) : levelNow.toFixed(1)
      }}</span> </template>{{ kind === 'users' ? '' : LEVEL_UNITS[kind]
      }}<template v-if="group.passes"> {{ count(group.passes) }} passes each</template><template v-if="group.thinkScale"> think × {{ group.thinkScale }}</template></span></template>
    </div>
    <div
      v-for="(cell, c) in row.cells"
      :key="codes[c]"
      v-memo="[
        cell,
        at,
        cursor === c + 1,
        isChosen(c + 1),
        cursor === c + 1 && editing,
        cursor === c + 1 && complaint,
        usersNow?.[c],
      ]"
      role="gridcell"
      class="rw"
      :class="{ foc: cursor === c + 1, sel: isChosen(c + 1) }"
      :tabindex="cursor === c + 1 ? 0 : -1"
      :data-cell="`${at}-${c + 1}`"
      :aria-label="cell.label"
      @focus="focused(c + 1)"
      @keydown="grid.onCellKey"
      @dblclick="grid.begin(grid.textAt(at, c + 1))"
    >
      <input
        v-if="cursor === c + 1 && editing !== undefined"
        v-model="editing"
        class="edit"
        :aria-label="`${group.name} at ${codes[c]}`"
        list="networks-of-cells"
        :aria-invalid="!!complaint"
        @keydown="grid.onEditKey"
        @blur="grid.finish(true)"
      >
      <template v-else-if="cell.bp > 0 || cell.share === 'rest'">
        <div class="share">
          <span class="sh"><span v-if="cell.share === 'rest'" class="rest">rest </span>{{ basisPoints(cell.bp) }}</span><span :class="{ over: cell.isOver }"><template v-if="usersNow"><span class="planned">{{ count(usersNow[c]!) }}</span> of </template>{{ cell.users }}</span>
        </div>
        <div class="net clip">{{ cell.networks || 'direct' }}</div>
        <i class="bar" :style="{ width: `${cell.bp / 100}%`, background: colour }" />
      </template>
      <span v-else class="q">–</span>
    </div>
    <div class="rw last" :class="{ miss: row.totalBp !== WHOLE_BP }" role="gridcell">
      <div class="share">
        <span class="sh">{{ basisPoints(row.totalBp) }}</span><span>{{ count(row.placed) }}</span>
      </div>
      <div class="net">
        {{
          row.totalBp === WHOLE_BP
            ? kind === 'users'
              ? 'all placed'
              : 'users expected'
            : row.totalBp < WHOLE_BP
              ? `${basisPoints(WHOLE_BP - row.totalBp)} missing`
              : `${basisPoints(row.totalBp - WHOLE_BP)} too much`
        }}
      </div>
    </div>
  </div>
</template>

<style scoped>
.name:hover {
  text-decoration: underline;
}
.rw {
  height: 48px;
  padding-top: 2px !important;
  background: var(--panel);
}
.rw.chosen {
  box-shadow: inset 3px 0 var(--act);
}
.name {
  display: flex;
  gap: 6px;
  min-height: 24px;
  align-items: center;
  font-stretch: 94%;
  max-width: 100%;
  border-radius: 3px;
}
.share {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  line-height: 19px;
  gap: 6px;
}
.sh {
  font-weight: 620;
  font-size: 14px;
}
.rest {
  font-weight: 400;
  font-size: 11px;
  color: var(--quiet);
}
.net {
  font-size: 11.5px;
  line-height: 15px;
  color: var(--quiet);
  font-stretch: 86%;
}
.under {
  padding-left: 22px;
}
.score {
  font-size: 12px;
  line-height: 17px;
  font-stretch: 90%;
  white-space: normal !important;
}
.two {
  display: -webkit-box;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2;
  overflow: hidden;
}
.unit {
  position: absolute;
  right: 6px;
  bottom: 2px;
  font-size: 11px;
  color: var(--quiet);
  background: var(--panel);
  padding-left: 6px;
}
.over {
  color: var(--plantx);
  font-weight: 620;
  text-decoration: underline wavy;
}
.bar {
  position: absolute;
  left: 0;
  bottom: 0;
  height: 3px;
}
.sel {
  background: var(--sel);
}
.foc {
  outline: 2px solid var(--act);
  outline-offset: -2px;
  background: var(--sel);
}
.miss {
  background: var(--brickbg) !important;
  color: var(--brick);
}
.miss .net {
  color: var(--brick);
}
.edit {
  width: 100%;
  height: 38px;
  background: var(--panel);
  outline: 2px solid var(--act);
  border-radius: 2px;
  padding: 0 4px;
}
.edit[aria-invalid='true'] {
  outline-color: var(--brick);
}
.journey {
  max-width: 100%;
  margin-left: -4px;
}
</style>
