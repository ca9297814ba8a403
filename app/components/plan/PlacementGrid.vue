<script setup lang="ts">
/**
 * The placement grid: groups by locations. Column 0 is the level over time, then one column per location: its share,
 * and the networks of its users. Past six locations the first and last columns stand still and the middle scrolls.
 */
import type { PlanCheck } from '~~/api/views'
import { BY_USERS, LEVEL_UNITS } from '~~/core/load/drive'
import { levelAt } from '~~/core/load/profile'
import { printPhrase, readPhrase } from '~~/core/load/phrase'
import type { NetworkMix, Plan, Share } from '~~/core/plan/document'
import { peakMoment } from '~~/core/plan/peak'
import { resolveShares, WHOLE_BP } from '~~/core/plan/shares'
import { usersPerCell } from '~~/core/run/slice'
import { printCell, readCell } from '~/format/cells'
import { printMix, type Mix } from '~/format/mixes'
import { basisPoints, count } from '~~/core/values/said-figures'

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
const plan = computed(() => store.plan!)
const frame = useTemplateRef<HTMLElement>('frame')
/** Locations beyond which the middle scrolls. */
const FIT = 6

const cells = computed(() => usersPerCell({ plan: store.inUsers! }))
const cellsNow = computed(() =>
  cursorMs === undefined ? undefined : usersPerCell({ plan: atMoment(store.inUsers!, cursorMs) }),
)
const shares = computed(() => plan.value.groups.map(g => resolveShares(plan.value, g.letter)))
const placed = computed(() => cells.value.map(row => row.reduce((a, b) => a + b, 0)))
const wide = computed(() => narrow || plan.value.locations.length > FIT)
const columns = computed(
  () =>
    `${wide.value ? '170px 200px' : 'minmax(150px, 190px) minmax(150px, 230px)'} repeat(${plan.value.locations.length}, ${wide.value ? '132px' : 'minmax(104px, 1fr)'}) 138px`,
)
const shareOf = (letter: string, code: string): Share => plan.value.placement[letter]?.[code] ?? 0
const clientsIn = (mix: Mix) => {
  const n = Object.keys(mix).length
  return n === 1 ? '1 client' : `${n} clients`
}
const mixAt = (letter: string, code: string): NetworkMix => plan.value.networks?.[letter]?.[code] ?? {}
const kindOf = (row: number) => (plan.value.groups[row]!.drive ?? BY_USERS).kind
const overMeans = (code: string) => {
  const size = check?.sizes.find(s => s.code === code)
  return !!size && size.machines.length > 0 && size.users > size.carries
}

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

const { editing, complaint, remark, isAt, isChosen, choose, begin, finish, onCellKey, onEditKey, onPaste, onCopy } =
  useCellGrid(
    {
      rows: () => plan.value.groups.length,
      columns: () => plan.value.locations.length + 1,
      fixed: column => column === 0,
      textAt(row, column) {
        const group = plan.value.groups[row]!
        if (column === 0) return printPhrase(group.profile)
        const { code } = plan.value.locations[column - 1]!
        return printCell({ share: shareOf(group.letter, code), mix: mixAt(group.letter, code) })
      },
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
defineExpose({
  edit: (row: number, column: number, text: string) => {
    choose(row, column)
    begin(text)
  },
})

/** All groups take "the rest" at a location, or none does. */
const isRest = (code: string) =>
  plan.value.groups.length > 0 && plan.value.groups.every(g => shareOf(g.letter, code) === 'rest')
function pinRest(code: string): void {
  const unpin = isRest(code)
  const at = plan.value.locations.findIndex(l => l.code === code)
  const resolved = shares.value.map(s => s.bp[at]!)
  store.edit((p) => {
    p.groups.forEach((g, row) => {
      ;(p.placement[g.letter] ??= {})[code] = unpin ? resolved[row]! : 'rest'
    })
  })
}
const nowLevel = (row: number) =>
  cursorMs === undefined ? undefined : levelAt(plan.value.groups[row]!.profile, cursorMs)
const colourOf = (letter: string) => `var(--g${((letter.charCodeAt(0) - 65) % 8) + 1})`
const focused = (row: number, column: number) => {
  // Of several chosen cells the first one stays where it is.
  if (!isChosen(row, column)) choose(row, column)
  emit('group', plan.value.groups[row]!.letter)
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
        <div v-for="l in plan.locations" :key="l.code" role="columnheader" class="hd">
          <button class="loc" :aria-label="`Location ${l.code}, ${l.region}`" @click="emit('openLocation', l.code)">
            <LocationCode :code="l.code" /> <span class="clip">{{ l.region }}</span>
          </button>
          <button
            class="pin"
            :aria-pressed="isRest(l.code)"
            :aria-label="`${l.code} takes the rest`"
            title="takes the rest of every group"
            @click="pinRest(l.code)"
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
      <div v-for="(g, r) in plan.groups" :key="g.letter" role="row" class="row">
        <div role="rowheader" class="rw fix1" :class="{ chosen: chosenGroup === g.letter }">
          <button class="name" :aria-label="`Group ${g.letter}, ${g.name}`" @click="emit('openGroup', g.letter)">
            <GroupTag :letter="g.letter" /><b class="clip">{{ g.name }}</b>
          </button>
          <div class="net under clip">
            <PickOne
              size="sm"
              variant="ghost"
              class="journey"
              :model-value="g.journeyId"
              :aria-label="`Journey of ${g.name}`"
              placeholder="choose a journey"
              :items="(store.view?.journeys ?? []).map(j => ({ value: j.id, label: j.name }))"
              @update:model-value="
                id =>
                  store.edit(p => {
                    p.groups[r]!.journeyId = id
                  })
              "
            />
            <span v-if="g.clients" class="q" :title="printMix(g.clients)">{{ clientsIn(g.clients) }}</span>
          </div>
        </div>
        <div
          role="gridcell"
          class="rw score fix2"
          :class="{ foc: isAt(r, 0), sel: isChosen(r, 0) }"
          :tabindex="isAt(r, 0) ? 0 : -1"
          :data-cell="`${r}-0`"
          :aria-label="`${g.name}, level over time: ${printPhrase(g.profile)}`"
          :title="printPhrase(g.profile)"
          @focus="focused(r, 0)"
          @keydown="onCellKey"
          @dblclick="begin(printPhrase(g.profile))"
        >
          <input
            v-if="isAt(r, 0) && editing !== undefined"
            v-model="editing"
            class="edit"
            :aria-label="`Level of ${g.name}`"
            :aria-invalid="!!complaint"
            @keydown="onEditKey"
            @blur="finish(true)"
          >
          <template v-else><span class="two">{{ printPhrase(g.profile) || 'type a level over time' }}</span><span
            v-if="kindOf(r) !== 'users' || g.passes || g.thinkScale || nowLevel(r) !== undefined"
            class="unit"
          ><template v-if="nowLevel(r) !== undefined"><span class="planned">{{
            kindOf(r) === 'users' ? count(nowLevel(r)!) : nowLevel(r)!.toFixed(1)
          }}</span> </template>{{ kindOf(r) === 'users' ? '' : LEVEL_UNITS[kindOf(r)]
          }}<template v-if="g.passes"> {{ count(g.passes) }} passes each</template><template v-if="g.thinkScale"> think × {{ g.thinkScale }}</template></span></template>
        </div>
        <div
          v-for="(l, c) in plan.locations"
          :key="l.code"
          role="gridcell"
          class="rw"
          :class="{ foc: isAt(r, c + 1), sel: isChosen(r, c + 1) }"
          :tabindex="isAt(r, c + 1) ? 0 : -1"
          :data-cell="`${r}-${c + 1}`"
          :aria-label="`${g.name} at ${l.code}: ${basisPoints(shares[r]!.bp[c]!)}, ${cells[r]![c]} users${printMix(mixAt(g.letter, l.code)) ? `, ${printMix(mixAt(g.letter, l.code))}` : ''}`"
          @focus="focused(r, c + 1)"
          @keydown="onCellKey"
          @dblclick="begin(printCell({ share: shareOf(g.letter, l.code), mix: mixAt(g.letter, l.code) }))"
        >
          <input
            v-if="isAt(r, c + 1) && editing !== undefined"
            v-model="editing"
            class="edit"
            :aria-label="`${g.name} at ${l.code}`"
            list="networks-of-cells"
            :aria-invalid="!!complaint"
            @keydown="onEditKey"
            @blur="finish(true)"
          >
          <template v-else-if="shares[r]!.bp[c]! > 0 || shareOf(g.letter, l.code) === 'rest'">
            <div class="share">
              <span class="sh"><span v-if="shareOf(g.letter, l.code) === 'rest'" class="rest">rest </span>{{ basisPoints(shares[r]!.bp[c]!) }}</span><span :class="{ over: overMeans(l.code) }"><template v-if="cellsNow"><span class="planned">{{ count(cellsNow[r]![c]!) }}</span> of </template>{{ count(cells[r]![c]!) }}</span>
            </div>
            <div class="net clip">{{ printMix(mixAt(g.letter, l.code)) || 'direct' }}</div>
            <i class="bar" :style="{ width: `${shares[r]!.bp[c]! / 100}%`, background: colourOf(g.letter) }" />
          </template>
          <span v-else class="q">–</span>
        </div>
        <div class="rw last" :class="{ miss: shares[r]!.totalBp !== WHOLE_BP }" role="gridcell">
          <div class="share">
            <span class="sh">{{ basisPoints(shares[r]!.totalBp) }}</span><span>{{ count(placed[r]!) }}</span>
          </div>
          <div class="net">
            {{
              shares[r]!.totalBp === WHOLE_BP
                ? kindOf(r) === 'users'
                  ? 'all placed'
                  : 'users expected'
                : shares[r]!.totalBp < WHOLE_BP
                  ? `${basisPoints(WHOLE_BP - shares[r]!.totalBp)} missing`
                  : `${basisPoints(shares[r]!.totalBp - WHOLE_BP)} too much`
            }}
          </div>
        </div>
      </div>
      <PlacementFeet
        :check="check"
        :cells="cells"
        :peak="peakMoment(store.inUsers!).users"
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
.name:hover,
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
.complaint {
  padding: 4px 2px 0;
  font-size: 12.5px;
  flex: none;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.journey {
  max-width: 100%;
  margin-left: -4px;
}
</style>
