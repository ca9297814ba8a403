<script setup lang="ts">
/**
 * What a plan is called and filed under, and how a run of it is made: notes, tags, rehearsal, machines kept, exemplars.
 */
import { lengthText, takeLength } from '~/format/durations'
import { takeNumber } from '~/format/numbers'
import { MOST_MAILED, readAddresses } from '~~/core/plan/mailed'
import { readTags } from '~~/core/values/tags'
import { USUAL_BEFORE_S } from '~~/core/target/source'
import { USUAL_EXEMPLARS, USUAL_WAIT_MIN } from '~~/core/plan/document'

const emit = defineEmits<{ close: [] }>()
const store = usePlan()
// It is drawn only where there is a plan.
const plan = computed(() => store.plan!)
const tags = (text: string) => {
  const list = readTags(text)
  store.edit((p) => {
    if (list.length > 0) p.tags = list
    else Reflect.deleteProperty(p, 'tags')
  })
  return true
}
function setNotes(text: string): void {
  store.edit((p) => {
    if (text.trim() === '') Reflect.deleteProperty(p, 'notes')
    else p.notes = text.slice(0, 10_000)
  })
}
function setMostCost(text: string): true | string {
  if (text.trim() !== '')
    return takeNumber(text.replace('€', ''), { min: 0 }, n =>
      store.edit((p) => {
        p.mostCost = n
      }))
  store.edit(p => Reflect.deleteProperty(p, 'mostCost'))
  return true
}
function setFigures(are: boolean): void {
  store.edit((p) => {
    if (are) p.targetFigures = { beforeS: USUAL_BEFORE_S }
    else Reflect.deleteProperty(p, 'targetFigures')
  })
}
function setMailTo(text: string): true | string {
  const read = readAddresses(text)
  if ('fault' in read) return `“${read.fault}” is no address of mail. Write addresses with commas between.`
  if (read.addresses.length > MOST_MAILED) return `These are ${read.addresses.length}; at most ${MOST_MAILED} are mailed to.`
  store.edit((p) => {
    if (read.addresses.length > 0) p.mailTo = read.addresses
    else Reflect.deleteProperty(p, 'mailTo')
  })
  return true
}
const SECOND_MS = 1000
const MOST_BEFORE_MS = 600_000
const setBefore = (text: string) =>
  takeLength(text, { max: MOST_BEFORE_MS, unit: 's', grain: SECOND_MS }, ms =>
    store.edit((p) => {
      p.targetFigures = { beforeS: ms / SECOND_MS }
    }))
const MINUTE_MS = 60_000
const minutes = (text: string, most: number, set: (n: number) => void) =>
  takeLength(text, { max: most * MINUTE_MS, unit: 'min', grain: MINUTE_MS }, ms => set(ms / MINUTE_MS))
const whole = (text: string, min: number, max: number, set: (n: number) => void) =>
  takeNumber(text, { min, max, whole: true }, set)
</script>

<template>
  <aside class="panel beside" aria-label="About the plan">
    <header>
      <h2>About</h2>
      <span class="spring" /><UButton size="sm" @click="emit('close')">Close <UKbd>b</UKbd></UButton>
    </header>
    <div class="dialog-form body">
      <UFormField label="Name">
        <DraftInput
          :value="plan.name"
          :accept="
            text => {
              if (text.trim() === '') return 'A plan needs a name.'
              store.edit(p => {
                p.name = text.trim().slice(0, 80)
              })
              return true
            }
          "
        />
      </UFormField>
      <UFormField label="Tags, with commas between">
        <DraftInput
          :value="(plan.tags ?? []).join(', ')"
          :accept="tags"
        />
      </UFormField>
      <UFormField label="Notes">
        <UTextarea
          :rows="6"
          :model-value="plan.notes ?? ''"
          @change="setNotes(($event.target as HTMLTextAreaElement).value)"
        />
      </UFormField>
      <UCheckbox
        :model-value="plan.rehearse"
        label="Rehearse before the load: one user per journey and location"
        @update:model-value="
          store.edit(p => {
            p.rehearse = $event === true
          })
        "
      />
      <UCheckbox
        :model-value="plan.targetFigures !== undefined"
        label="Read the target’s own figures beside the load"
        @update:model-value="setFigures($event === true)"
      />
      <UFormField v-if="plan.targetFigures" label="From before the load, at rest">
        <DraftInput :value="lengthText(plan.targetFigures.beforeS * SECOND_MS)" :accept="setBefore" />
      </UFormField>
      <UCheckbox
        :model-value="plan.traces === true"
        label="Every request begins a trace (traceparent)"
        @update:model-value="
          store.edit(p => {
            if ($event === true) p.traces = true
            else delete p.traces
          })
        "
      />
      <UFormField label="Mail the report to, at the end">
        <DraftInput :value="(plan.mailTo ?? []).join(', ')" :accept="setMailTo" />
      </UFormField>
      <UFormField label="Keep machines after the run">
        <DraftInput
          :value="lengthText(plan.keepMachinesMin * MINUTE_MS)"
          :accept="
            text =>
              minutes(text, 240, n =>
                store.edit(p => {
                  p.keepMachinesMin = n
                }),
              )
          "
        />
      </UFormField>
      <UFormField label="Wait for machines that are short">
        <DraftInput
          :value="lengthText((plan.waitForMachinesMin ?? USUAL_WAIT_MIN) * MINUTE_MS)"
          :accept="
            text =>
              minutes(text, 1440, n =>
                store.edit(p => {
                  p.waitForMachinesMin = n
                }),
              )
          "
        />
      </UFormField>
      <UFormField label="A run may cost at most, € (empty: the house’s limit alone)">
        <DraftInput
          inputmode="decimal"
          :value="plan.mostCost ?? ''"
          :accept="setMostCost"
        />
      </UFormField>
      <UFormField label="Exchanges kept whole: every exchange of one pass in">
        <DraftInput
          inputmode="numeric"
          :value="(plan.exemplars ?? USUAL_EXEMPLARS).oneInPasses"
          :accept="
            text =>
              whole(text, 0, 1_000_000, n =>
                store.edit(p => {
                  p.exemplars = { ...(p.exemplars ?? USUAL_EXEMPLARS), oneInPasses: n }
                }),
              )
          "
        />
      </UFormField>
      <UFormField label="Seed of every random choice">
        <DraftInput
          inputmode="numeric"
          :value="plan.seed"
          :accept="
            text =>
              whole(text, 0, 4_294_967_295, n =>
                store.edit(p => {
                  p.seed = n
                }),
              )
          "
        />
      </UFormField>
      <UButton v-needs="'operator'" @click="store.setArchived(!store.view!.archived)">
        {{ store.view!.archived ? 'Take out of the archive' : 'Archive' }}
      </UButton>
      <p class="q s12">An archived plan keeps its versions and runs and is left out of lists.</p>
    </div>
  </aside>
</template>

<style scoped>
.beside {
  display: grid;
  grid-template-rows: auto 1fr;
  min-height: 0;
  min-width: 0;
}
header {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 6px 10px;
  border-bottom: 1px solid var(--hair);
}
.spring {
  flex: 1;
}
.body {
  padding: 10px;
  overflow: auto;
}
</style>
