<script setup lang="ts">
/** One group: who they are, what drives them, when they end, and where they come from as a preset. */
import { ASSUMED_ANSWER_MS, expectedPass, expectedWork } from '~~/core/plan/expected'
import { BY_USERS, LEVEL_UNITS, type Drive, type DriveKind } from '~~/core/load/drive'
import { readTraffic, spreadEvenly } from '~~/core/plan/presets'
import type { Group } from '~~/core/plan/document'
import { count } from '~/format/figures'
import { seconds } from '~/format/journeys'

const open = defineModel<string | undefined>({ required: true })
const store = usePlan()
const traffic = ref('')
const complaint = ref('')
const plan = computed(() => store.plan!)
const group = computed(() => plan.value.groups.find(g => g.letter === open.value))
const journey = computed(() => store.view?.journeys.find(j => j.id === group.value?.journeyId))
const drive = computed<Drive>(() => group.value?.drive ?? BY_USERS)
const pass = computed(() => group.value && expectedPass(journey.value, group.value))
const work = computed(() => group.value && expectedWork(group.value, journey.value))
const shown = computed({
  get: () => !!group.value,
  set: (is) => {
    if (!is) open.value = undefined
  },
})

function change(act: (g: Group) => void): void {
  store.edit((p) => {
    act(p.groups.find(g => g.letter === open.value)!)
  })
}
function setDrive(kind: DriveKind): void {
  change((g) => {
    if (kind === 'users') Reflect.deleteProperty(g, 'drive')
    else if (kind === 'arrivals') g.drive = { kind, spacing: 'poisson', mostInFlight: 200 }
    else g.drive = { kind, fewestUsers: 1, mostUsers: 200 }
    if (kind === 'users') for (const s of g.profile.segments) s.to = Math.round(s.to)
    else Reflect.deleteProperty(g, 'passes')
  })
}
/** A whole number from 1, or nothing where that is allowed. */
function number(text: string, least: number, set: (n: number) => void): boolean {
  const n = Number(text.trim().replace(',', '.'))
  if (text.trim() === '' || !Number.isFinite(n) || n < least) return false
  set(n)
  return true
}
function setPasses(text: string): boolean {
  if (text.trim() === '') change(g => Reflect.deleteProperty(g, 'passes'))
  else
    return number(text, 1, n =>
      change((g) => {
        g.passes = Math.round(n)
      }),
    )
  return true
}
const setScale = (text: string) =>
  number(text, 0, n =>
    change((g) => {
      if (n === 1) Reflect.deleteProperty(g, 'thinkScale')
      else g.thinkScale = n
    }),
  )
function place(row: Record<string, number> | undefined): void {
  if (!row) return
  complaint.value = ''
  store.edit((p) => {
    p.placement[open.value!] = row
  })
}
function like(letter: string): void {
  store.edit((p) => {
    p.placement[open.value!] = { ...p.placement[letter] }
    if (p.networks?.[letter])
      p.networks[open.value!] = JSON.parse(JSON.stringify(p.networks[letter])) as NonNullable<typeof p.networks>[string]
  })
}
function fromTraffic(): void {
  const read = readTraffic(traffic.value, plan.value.locations)
  if (read.ok) place(read.shares)
  else complaint.value = read.problem
}
function remove(): void {
  const letter = open.value!
  open.value = undefined
  store.edit(p => removeGroup(p, letter))
}
</script>

<template>
  <UModal
    v-model:open="shown"
    :title="group ? `Group ${group.letter}: ${group.name}` : 'Group'"
    description="What its users do, and how many come when. Every change is on the sheet at once; u takes it back."
  >
    <template #body>
      <form v-if="group" class="dialog-form" @submit.prevent="open = undefined">
        <label
        >Name
          <DraftInput
            class="field"
            :value="group.name"
            :accept="
              text => {
                if (text.trim() === '') return false
                change(g => {
                  g.name = text.trim().slice(0, 60)
                })
                return true
              }
            "
          /></label>
        <label
        >Journey
          <select
            class="field"
            :value="group.journeyId"
            @change="
              change(g => {
                g.journeyId = ($event.target as HTMLSelectElement).value
              })
            "
          >
            <option value="" disabled>choose a journey</option>
            <option v-for="j in store.view?.journeys ?? []" :key="j.id" :value="j.id">{{ j.name }}</option>
          </select></label
        >
        <label
        >Driven by
          <select
            class="field"
            :value="drive.kind"
            @change="setDrive(($event.target as HTMLSelectElement).value as DriveKind)"
          >
            <option value="users">users: each goes round until it leaves</option>
            <option value="arrivals">arrivals: passes started per second, whatever the target does</option>
            <option value="requests">requests per second, held by calling users and sending them away</option>
          </select></label
        >
        <div v-if="drive.kind === 'arrivals'" class="pair">
          <label
          >Spacing
            <select
              class="field"
              :value="drive.spacing"
              @change="
                change(g => {
                  ;(g.drive as { spacing: string }).spacing = ($event.target as HTMLSelectElement).value
                })
              "
            >
              <option value="poisson">random, as a Poisson process</option>
              <option value="even">even</option>
            </select></label
          >
          <label
          >Most under way, per generator
            <DraftInput
              class="field"
              inputmode="numeric"
              :value="drive.mostInFlight"
              :accept="
                text =>
                  number(text, 1, n =>
                    change(g => {
                      ;(g.drive as { mostInFlight: number }).mostInFlight = Math.round(n)
                    }),
                  )
              "
            /></label>
        </div>
        <div v-if="drive.kind === 'requests'" class="pair">
          <label
          >At least, users
            <DraftInput
              class="field"
              inputmode="numeric"
              :value="drive.fewestUsers"
              :accept="
                text =>
                  number(text, 0, n =>
                    change(g => {
                      ;(g.drive as { fewestUsers: number }).fewestUsers = Math.round(n)
                    }),
                  )
              "
            /></label>
          <label
          >At most, users
            <DraftInput
              class="field"
              inputmode="numeric"
              :value="drive.mostUsers"
              :accept="
                text =>
                  number(text, 1, n =>
                    change(g => {
                      ;(g.drive as { mostUsers: number }).mostUsers = Math.round(n)
                    }),
                  )
              "
            /></label>
        </div>
        <div class="pair">
          <label v-if="drive.kind === 'users'"
          >Passes, then each leaves
            <DraftInput
              class="field"
              inputmode="numeric"
              :value="group.passes ?? ''"
              placeholder="as the level says"
              :accept="setPasses"
            /></label>
          <label
          >Think times ×
            <DraftInput class="field" inputmode="decimal" :value="group.thinkScale ?? 1" :accept="setScale"
            /></label>
        </div>
        <p class="q s12">
          One pass takes about {{ seconds(pass!.ms) }} with its pauses ({{ ASSUMED_ANSWER_MS }} ms assumed an answer).
          The level, in {{ LEVEL_UNITS[drive.kind] }}, makes about {{ count(work!.passes) }} passes,
          {{ count(work!.requests) }} requests.
        </p>
        <fieldset class="where">
          <legend>Where they come from</legend>
          <button
            type="button"
            class="btn sm"
            :disabled="!plan.locations.length"
            @click="place(spreadEvenly(plan.locations))"
          >
            Spread evenly
          </button>
          <button
            v-for="g in plan.groups.filter(g => g.letter !== open)"
            :key="g.letter"
            type="button"
            class="btn sm"
            @click="like(g.letter)"
          >
            Like <GroupTag :letter="g.letter" />
          </button>
          <label class="csv"
          >Or as real traffic comes: location and share or count, one a line
            <textarea
              v-model="traffic"
              class="field tall"
              rows="3"
              placeholder="location,visits&#10;REY,5200&#10;TAV,3100"
            />
          </label>
          <button type="button" class="btn sm" :disabled="traffic.trim() === ''" @click="fromTraffic">
            Place like this
          </button>
          <span v-if="complaint" class="brick s12" role="alert">{{ complaint }}</span>
        </fieldset>
        <div class="ends">
          <button type="button" class="btn broken" @click="remove">Remove the group</button
          ><button class="btn act" type="submit">Done</button>
        </div>
      </form>
    </template>
  </UModal>
</template>

<style scoped>
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}
.where {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
  border-top: 1px solid var(--hair);
  padding-top: 8px;
}
.where legend {
  font-weight: 600;
  padding-right: 8px;
}
.csv {
  width: 100%;
}
.tall {
  height: auto;
  font-family: var(--font-mono);
}
.ends {
  display: flex;
  justify-content: space-between;
}
</style>
