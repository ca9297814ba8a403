<script setup lang="ts">
/**
 * One group: who they are, what drives them, when they end, and where they come from as a preset. Also adds one, which
 * is on the sheet once it is added.
 */
import { removeGroup } from '~~/core/checks/apply-fix'
import { takeNumber } from '~/format/numbers'
import { ASSUMED_ANSWER_MS, expectedPass, expectedWork } from '~~/core/plan/expected'
import { BY_USERS, LEVEL_UNITS, type Drive, type DriveKind } from '~~/core/load/drive'
import { readTraffic, spreadEvenly } from '~~/core/plan/presets'
import type { Group, Plan } from '~~/core/plan/document'
import { addGroup, newGroup } from '~~/core/plan/new-group'
import { count } from '~~/core/values/said-figures'
import { seconds } from '~/format/journeys'
import { printMix, readMix } from '~/format/mixes'
import { sayRow } from '~/format/shares'
import { groupOf } from '~~/core/plan/in-plan'

/** Letter of the group; empty to add one; undefined: closed. */
const open = defineModel<string | undefined>({ required: true })
const emit = defineEmits<{ added: [letter: string] }>()
const store = usePlan()
const traffic = ref('')
const complaint = ref('')
// It is drawn only where there is a plan.
const plan = computed(() => store.plan!)
const isNew = open.value === ''
/** One that is added, with the first journey there is. */
const draft = ref(isNew ? newGroup(plan.value, store.view?.journeys[0]?.id ?? '') : undefined)
const group = computed(() => draft.value?.group ?? plan.value.groups.find(g => g.letter === open.value))
/** Where users of one that is added will come from, in words. */
const from = computed(() => sayRow(draft.value?.row ?? {}, plan.value.locations.map(l => l.code)))
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
  if (draft.value) return act(draft.value.group)
  store.edit((p) => {
    act(groupOf(p, open.value ?? ''))
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
const number = (text: string, min: number, set: (n: number) => void) => takeNumber(text, { min }, set)
function setPasses(text: string): true | string {
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
/** Typed as networks are in a cell. */
function setClients(text: string): true | string {
  const read = readMix(text, store.view?.clients ?? [], 'client')
  if (!read.ok) return read.problem
  change((g) => {
    if (Object.keys(read.mix).length === 0) Reflect.deleteProperty(g, 'clients')
    else g.clients = read.mix
  })
  return true
}
function place(row: Plan['placement'][string] | undefined, networks?: NonNullable<Plan['networks']>[string]): void {
  if (!row) return
  complaint.value = ''
  if (draft.value) {
    draft.value = { ...draft.value, row, ...(networks ? { networks } : {}) }
    return
  }
  store.edit((p) => {
    const letter = open.value ?? ''
    p.placement[letter] = row
    if (networks) (p.networks ??= {})[letter] = networks
  })
}
function like(letter: string): void {
  place({ ...plan.value.placement[letter] }, plan.value.networks?.[letter])
}
function fromTraffic(): void {
  const read = readTraffic(traffic.value, plan.value.locations)
  if (read.ok) place(read.shares)
  else complaint.value = read.problem
}
/** What is typed is on the sheet already; one that is new is put there now. */
function done(): void {
  const added = draft.value
  open.value = undefined
  if (!added) return
  store.edit(p => addGroup(p, added))
  emit('added', added.group.letter)
}
function remove(): void {
  const letter = open.value ?? ''
  open.value = undefined
  store.edit(p => removeGroup(p, letter))
}
</script>

<template>
  <UModal
    v-model:open="shown"
    :title="group ? `${isNew ? 'Add group' : 'Group'} ${group.letter}: ${group.name}` : 'Group'"
    :description="isNew
      ? 'What its users do, and where they come from. It is on the sheet once it is added; how many come when is typed there.'
      : 'What its users do, and how many come when. Every change is on the sheet at once; Ctrl Z takes it back.'"
  >
    <template #body>
      <FaultForm v-if="group" class="dialog-form" @submit="done">
        <UFormField label="Name">
          <DraftInput
            :value="group.name"
            :accept="
              text => {
                if (text.trim() === '') return 'A group needs a name.'
                change(g => {
                  g.name = text.trim().slice(0, 60)
                })
                return true
              }
            "
          />
        </UFormField>
        <UFormField label="Journey">
          <PickOne
            :model-value="group.journeyId"
            :items="[
              { value: '', label: 'choose a journey', disabled: true },
              ...(store.view?.journeys ?? []).map(j => ({ value: j.id, label: j.name })),
            ]"
            @update:model-value="value => change(g => {
              g.journeyId = value
            })"
          />
        </UFormField>
        <UFormField label="Driven by">
          <PickOne
            :model-value="drive.kind"
            :items="[
              { value: 'users', label: 'users: each goes round until it leaves' },
              { value: 'arrivals', label: 'arrivals: passes started per second, whatever the target does' },
              { value: 'requests', label: 'requests per second, held by calling users and sending them away' },
            ]"
            @update:model-value="value => setDrive(value as DriveKind)"
          />
        </UFormField>
        <div v-if="drive.kind === 'arrivals'" class="pair">
          <UFormField label="Spacing">
            <PickOne
              :model-value="drive.spacing"
              :items="[
                { value: 'poisson', label: 'random, as a Poisson process' },
                { value: 'even', label: 'even' },
              ]"
              @update:model-value="value => change(g => {
                  ;(g.drive as { spacing: string }).spacing = value
              })"
            />
          </UFormField>
          <UFormField label="Most under way, per generator">
            <DraftInput
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
            />
          </UFormField>
        </div>
        <div v-if="drive.kind === 'requests'" class="pair">
          <UFormField label="At least, users">
            <DraftInput
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
            />
          </UFormField>
          <UFormField label="At most, users">
            <DraftInput
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
            />
          </UFormField>
        </div>
        <div class="pair">
          <UFormField v-if="drive.kind === 'users'" label="Passes, then each leaves">
            <DraftInput
              inputmode="numeric"
              :value="group.passes ?? ''"
              placeholder="as the level says"
              :accept="setPasses"
            />
          </UFormField>
          <UFormField label="Think times ×">
            <DraftInput
              inputmode="decimal"
              :value="group.thinkScale ?? 1"
              :accept="setScale"
            />
          </UFormField>
        </div>
        <UFormField
          v-if="journey?.kind !== 'command'"
          label="Clients"
          hint="parts in %"
          :help="(store.view?.clients ?? []).map(c => c.id).join(', ')"
        >
          <DraftInput
            :value="printMix(group.clients ?? {})"
            placeholder="none: no program says what it is"
            list="clients-of-groups"
            :accept="setClients"
          />
        </UFormField>
        <datalist id="clients-of-groups">
          <option v-for="c in store.view?.clients ?? []" :key="c.id" :value="c.id">{{ c.name }}</option>
        </datalist>
        <p class="q s12">
          One pass takes about {{ seconds(pass!.ms) }} with its pauses ({{ ASSUMED_ANSWER_MS }} ms assumed an answer).
          The level, in {{ LEVEL_UNITS[drive.kind] }}, makes about {{ count(work!.passes) }} passes,
          {{ count(work!.requests) }} requests.
        </p>
        <fieldset class="where">
          <legend>Where they come from</legend>
          <UButton

            size="sm"
            :disabled="!plan.locations.length"
            @click="place(spreadEvenly(plan.locations))"
          >
            Spread evenly
          </UButton>
          <UButton
            v-for="g in plan.groups.filter(g => g.letter !== open)"
            :key="g.letter"

            size="sm"
            @click="like(g.letter)"
          >
            Like <GroupTag :letter="g.letter" />
          </UButton>
          <UFormField
            class="csv"
            label="Or as real traffic comes: location and share or count, one a line"
          >
            <UTextarea
              v-model="traffic"
              :rows="3"
              placeholder="location,visits&#10;REY,5200&#10;TAV,3100"
            />
          </UFormField>
          <UButton size="sm" :disabled="traffic.trim() === ''" @click="fromTraffic">
            Place like this
          </UButton>
          <span v-if="complaint" class="brick s12" role="alert">{{ complaint }}</span>
          <span v-else-if="isNew" class="q s12" role="status">{{ from || 'from nowhere yet: the grid takes it too' }}</span>
        </fieldset>
        <div class="ends">
          <UButton v-if="isNew" @click="open = undefined">Cancel</UButton>
          <UButton v-else color="error" @click="remove">Remove the group</UButton>
          <UButton variant="solid" type="submit">{{ isNew ? 'Add it' : 'Done' }}</UButton>
        </div>
      </FaultForm>
    </template>
  </UModal>
</template>

<style scoped>
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
.ends {
  display: flex;
  justify-content: space-between;
}
</style>
