<script setup lang="ts">
/**
 * What a plan is called and filed under, and how a run of it is made: notes, tags, rehearsal, machines kept, exemplars.
 */
import { USUAL_EXEMPLARS, USUAL_WAIT_MIN } from '~~/core/plan/document'

const emit = defineEmits<{ close: [] }>()
const store = usePlan()
const plan = computed(() => store.plan!)
const tags = (text: string) => {
  const list = [
    ...new Set(
      text
        .split(',')
        .map(t => t.trim().slice(0, 40))
        .filter(Boolean),
    ),
  ].slice(0, 20)
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
function setMostCost(text: string): boolean {
  const n = Number(text.replace(',', '.'))
  if (text.trim() !== '' && !(n >= 0)) return false
  store.edit((p) => {
    if (text.trim() === '') Reflect.deleteProperty(p, 'mostCost')
    else p.mostCost = n
  })
  return true
}
function whole(text: string, least: number, most: number, set: (n: number) => void): boolean {
  const n = Number(text)
  if (text.trim() === '' || !Number.isInteger(n) || n < least || n > most) return false
  set(n)
  return true
}
</script>

<template>
  <aside class="panel beside" aria-label="About the plan">
    <header>
      <h2>About</h2>
      <span class="spring" /><button class="btn sm" @click="emit('close')">Close <kbd>b</kbd></button>
    </header>
    <div class="dialog-form body">
      <label
      >Name
        <DraftInput
          class="field"
          :value="plan.name"
          :accept="
            text => {
              if (text.trim() === '') return false
              store.edit(p => {
                p.name = text.trim().slice(0, 80)
              })
              return true
            }
          "
        /></label>
      <label
      >Tags, with commas between <DraftInput class="field" :value="(plan.tags ?? []).join(', ')" :accept="tags"
      /></label>
      <label
      >Notes
        <textarea
          class="field tall"
          rows="6"
          :value="plan.notes ?? ''"
          @change="setNotes(($event.target as HTMLTextAreaElement).value)"
        />
      </label>
      <label class="tick"
      ><input
        type="checkbox"
        :checked="plan.rehearse"
        @change="
          store.edit(p => {
            p.rehearse = ($event.target as HTMLInputElement).checked
          })
        "
      >
        Rehearse before the load: one user per journey and location</label
      >
      <label
      >Keep machines after the run, min
        <DraftInput
          class="field"
          inputmode="numeric"
          :value="plan.keepMachinesMin"
          :accept="
            text =>
              whole(text, 0, 240, n =>
                store.edit(p => {
                  p.keepMachinesMin = n
                }),
              )
          "
        /></label>
      <label
      >Wait for machines that are short, min
        <DraftInput
          class="field"
          inputmode="numeric"
          :value="plan.waitForMachinesMin ?? USUAL_WAIT_MIN"
          :accept="
            text =>
              whole(text, 0, 1440, n =>
                store.edit(p => {
                  p.waitForMachinesMin = n
                }),
              )
          "
        /></label>
      <label
      >A run may cost at most, € (empty: the house’s limit alone)
        <DraftInput class="field" inputmode="decimal" :value="plan.mostCost ?? ''" :accept="setMostCost"
        /></label>
      <label
      >Exchanges kept whole: every exchange of one pass in
        <DraftInput
          class="field"
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
        /></label>
      <label
      >Seed of every random choice
        <DraftInput
          class="field"
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
        /></label>
      <button class="btn" @click="store.setArchived(!store.view!.archived)">
        {{ store.view!.archived ? 'Take out of the archive' : 'Archive' }}
      </button>
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
.tall {
  height: auto;
}
.tick {
  flex-direction: row !important;
  align-items: center;
  gap: 6px;
}
</style>
