<script setup lang="ts">
/**
 * The placement grid: groups by locations. Column 0 is the level over time, then one column per location: its share,
 * and the networks of its users. Past six locations the first and last columns stand still and the middle scrolls.
 */
import type { PlanCheck } from '~~/api/views'
import { BY_USERS } from '~~/core/load/drive'
import { levelAt } from '~~/core/load/profile'
import { printPhrase, readPhrase } from '~~/core/load/phrase'
import type { NetworkMix, Plan, Share } from '~~/core/plan/document'
import { peakMoment } from '~~/core/plan/peak'
import { usersPerCell } from '~~/core/run/slice'
import { printCell, readCell } from '~/format/cells'
import { placementRows, type RowOfCells } from './placement-cells'

const { check, cursorMs, chosenGroup, narrow } = defineProps<{
  check: PlanCheck | undefined
  cursorMs: number | undefined
  chosenGroup: string | undefined
  narrow: boolean
}>()
const emit = defineEmits<{
  group: [letter: string]
  openGroup: [letter: string]
  openLocation: [code: string]
  addGroup: []
  addLocation: []
  sizing: [code: string]
}>()
const store = usePlan()
// It is drawn only where there is a plan.
const plan = computed(() => store.plan!)
// As above.
const inUsers = computed(() => store.inUsers!)
const frame = useTemplateRef<HTMLElement>('frame')
/** Locations beyond which the middle scrolls. */
const FIT = 6

const cells = computed<number[][]>(before => keepingUnchanged(before, usersPerCell({ plan: inUsers.value })))
const cellsNow = computed(() =>
  cursorMs === undefined ? undefined : usersPerCell({ plan: atMoment(inUsers.value, cursorMs) }),
)
const over = computed(() =>
  new Set((check?.sizes ?? []).filter(s => s.machines.length > 0 && s.users > s.carries).map(s => s.code)))
/** A cell that says what it said before is the same object: only what differs is drawn. */
const rows = computed<RowOfCells[]>(before =>
  keepingUnchanged(before, placementRows(plan.value, cells.value, over.value)))
const codes = computed<string[]>(before => keepingUnchanged(before, plan.value.locations.map(l => l.code)))
const peak = computed(() => peakMoment(inUsers.value).users)
const journeys = computed(() => (store.view?.journeys ?? []).map(j => ({ value: j.id, label: j.name })))
const wide = computed(() => narrow || plan.value.locations.length > FIT)
const columns = computed(
  () =>
    `${wide.value ? '170px 200px' : 'minmax(150px, 190px) minmax(150px, 230px)'} repeat(${plan.value.locations.length}, ${wide.value ? '132px' : 'minmax(104px, 1fr)'}) 138px`,
)
const shareOf = (letter: string, code: string): Share => plan.value.placement[letter]?.[code] ?? 0
const mixAt = (letter: string, code: string): NetworkMix => plan.value.networks?.[letter]?.[code] ?? {}
const kindOf = (row: number) => (plan.value.groups[row]!.drive ?? BY_USERS).kind

/** Everybody who is there at a moment: the users who came first. */
function atMoment(p: Plan, ms: number): Plan {
  return {
    ...p,
    groups: p.groups.map(g => ({
      ...g,
      profile: { startDelayMs: 0, segments: [{ to: Math.round(levelAt(g.profile, ms)), overMs: 0 }] },
    })),
  }
}

/** As it is typed. */
function textAt(row: number, column: number): string {
  const group = plan.value.groups[row]!
  if (column === 0) return printPhrase(group.profile)
  const { code } = plan.value.locations[column - 1]!
  return printCell({ share: shareOf(group.letter, code), mix: mixAt(group.letter, code) })
}

const grid = useCellGrid(
  {
    rows: () => plan.value.groups.length,
    columns: () => plan.value.locations.length + 1,
    fixed: column => column === 0,
    textAt,
    write(written) {
      const changes: ((p: Plan) => void)[] = []
      for (const { row, column, text } of written) {
        const { letter, name } = plan.value.groups[row]!
        if (column === 0) {
          const reading = readPhrase(text, { rate: kindOf(row) !== 'users' })
          if (!reading.ok)
            return { row, column, problem: `${name}, at character ${reading.at + 1}: ${reading.problem}.` }
          changes.push((p) => {
            p.groups[row]!.profile = reading.profile
          })
          continue
        }
        const reading = readCell(text, store.view?.networks ?? [])
        if (!reading.ok) return { row, column, problem: `${reading.problem}.` }
        const { code } = plan.value.locations[column - 1]!
        changes.push((p) => {
          ;(p.placement[letter] ??= {})[code] = reading.share
          if (!reading.mix) return
          const networks = ((p.networks ??= {})[letter] ??= {})
          if (Object.keys(reading.mix).length > 0) networks[code] = reading.mix
          else Reflect.deleteProperty(networks, code)
        })
      }
      store.edit(p => changes.forEach(change => change(p)))
      return undefined
    },
  },
  frame,
)
const { editing, complaint, remark, isAt, choose, begin, onPaste, onCopy } = grid
defineExpose({
  edit: (row: number, column: number, text: string) => {
    choose(row, column)
    begin(text)
  },
})

/** All groups take "the rest" at a location, or none does. */
const rests = computed(() =>
  plan.value.locations.map((_, c) => rows.value.length > 0 && rows.value.every(row => row.cells[c]!.share === 'rest')))
function pinRest(at: number): void {
  const unpin = rests.value[at]!
  const { code } = plan.value.locations[at]!
  const resolved = rows.value.map(row => row.bp[at]!)
  store.edit((p) => {
    p.groups.forEach((g, row) => {
      ;(p.placement[g.letter] ??= {})[code] = unpin ? resolved[row]! : 'rest'
    })
  })
}
</script>

<template>
  <div class="whole">
    <div
      ref="frame"
      class="grid panel"
      :class="{ scrolls: wide }"
      role="grid"
      aria-label="Placement"
      :style="{ gridTemplateColumns: columns }"
      @paste="onPaste"
      @copy="onCopy"
    >
      <div role="row" class="row">
        <div role="columnheader" class="hd fix1">
          <h2>Placement</h2>
          <span class="spring" /><button class="add" @click="emit('addGroup')">+ group <UKbd>g</UKbd></button>
        </div>
        <div role="columnheader" class="hd q fix2">level over time</div>
        <div
          v-for="(l, c) in plan.locations"
          :key="l.code"
          v-memo="[l, c, rests[c]]"
          role="columnheader"
          class="hd"
        >
          <button class="loc" :aria-label="`Location ${l.code}, ${l.region}`" @click="emit('openLocation', l.code)">
            <LocationCode :code="l.code" /> <span class="clip">{{ l.region }}</span>
          </button>
          <button
            class="pin"
            :aria-pressed="rests[c]"
            :aria-label="`${l.code} takes the rest`"
            title="takes the rest of every group"
            @click="pinRest(c)"
          >
            rest
          </button>
        </div>
        <div role="columnheader" class="hd last">
          placed<span class="spring" /><button
            class="add"
            @click="emit('addLocation')"
          >+ location <UKbd>l</UKbd></button>
        </div>
      </div>
      <PlacementRow
        v-for="(g, r) in plan.groups"
        :key="g.letter"
        :group="g"
        :at="r"
        :row="rows[r]!"
        :codes="codes"
        :grid="grid"
        :journeys="journeys"
        :is-chosen-group="chosenGroup === g.letter"
        :level-now="cursorMs === undefined ? undefined : levelAt(g.profile, cursorMs)"
        :users-now="cellsNow?.[r]"
        @open="emit('openGroup', g.letter)"
        @chosen="emit('group', g.letter)"
      />
      <PlacementFeet
        :check="check"
        :cells="cells"
        :peak="peak"
        @sizing="emit('sizing', $event)"
        @complain="complaint = $event"
      />
    </div>
    <datalist id="networks-of-cells">
      <option
        v-for="n in store.view?.networks ?? []"
        :key="n.id"
        :value="`${editing?.match(/^\S*/)?.[0] ?? ''} ${n.id}`"
      >
        {{ n.name }}
      </option>
    </datalist>
    <p v-if="complaint" class="complaint brick" role="alert">
      <AGlyph name="inTheWay" word="not understood" /> {{ complaint }} <span class="q">Esc takes it back.</span>
    </p>
    <p v-else-if="editing !== undefined" class="complaint q">
      {{
        isAt(0, 0) || frame?.querySelector('.score .edit')
          ? '→ 40 in 30 s, hold 1 min, → 0 in 15 s · stairs → 80 in 4 steps of 1 min · burst → 90 for 20 s · wave ± 20 every 2 min for 10 min · soak 40 for 2 h · +5 a minute for 8 min · warm-up: …'
          : '40 · 12,5 % · rest · 40 city-fibre 70, copper-line 30 · 40 direct'
      }}
    </p>
    <p v-else-if="remark" class="complaint plantx" role="status">{{ remark }}</p>
  </div>
</template>

<style>
/* Not scoped: the feet are rows of the same grid. */
.grid .row {
  display: contents;
}
.grid .row > div {
  border-bottom: 1px solid var(--hair);
  border-right: 1px solid var(--hair);
  padding: 0 8px;
  min-width: 0;
  overflow: hidden;
  white-space: nowrap;
  position: relative;
}
.grid .row > .last {
  border-right: 0;
}
.grid.scrolls .row > .fix1,
.grid.scrolls .row > .fix2,
.grid.scrolls .row > .last {
  position: sticky;
  z-index: 2;
  background: var(--panel);
}
.grid.scrolls .row > .fix1 {
  left: 0;
}
.grid.scrolls .row > .fix2 {
  left: 170px;
  border-right: 2px solid var(--edge);
}
.grid.scrolls .row > .last {
  right: 0;
  border-left: 2px solid var(--edge);
}
.grid .row > .hd {
  height: 28px;
  display: flex;
  align-items: center;
  gap: 6px;
  font-size: 12px;
  background: var(--bg) !important;
  position: sticky;
  top: 0;
  z-index: 1;
}
.grid.scrolls .row > .hd.fix1,
.grid.scrolls .row > .hd.fix2,
.grid.scrolls .row > .hd.last {
  z-index: 3;
}
</style>

<style scoped>
.whole {
  min-height: 0;
  display: flex;
  flex-direction: column;
}
.grid {
  display: grid;
  overflow: auto;
  min-height: 0;
}
.spring {
  flex: 1;
}
.add {
  font-size: 11px;
  color: var(--act);
  white-space: nowrap;
  border-radius: 3px;
}
.add kbd {
  margin-left: 2px;
}
.loc {
  min-height: 24px;
  display: flex;
  gap: 6px;
  align-items: center;
  min-width: 0;
  flex: 1;
  border-radius: 3px;
}
.loc:hover,
.add:hover {
  text-decoration: underline;
}
.pin {
  font-size: 11px;
  color: var(--quiet);
  border: 1px solid transparent;
  border-radius: 3px;
  padding: 0 3px;
  min-width: 24px;
  min-height: 24px;
}
.pin[aria-pressed='true'] {
  color: var(--act);
  border-color: var(--act);
}
.complaint {
  padding: 4px 2px 0;
  font-size: 12.5px;
  flex: none;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
</style>
