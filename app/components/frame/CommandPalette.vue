<script setup lang="ts">
/** Find anything, do anything: acts of this screen first, then where one was lately, then every object by its words. */
import { useLocalStorage, useTimeoutFn } from '@vueuse/core'

interface Offer {
  label: string
  suffix?: string
  kbds?: string[]
  onSelect: () => void
}
interface Offers {
  id: string
  label: string
  items: Offer[]
}
const open = defineModel<boolean>({ required: true })
const { acts } = useActList()
const recent = useLocalStorage<{ label: string, to: string }[]>('vornak.recent', [])
const objects = shallowRef<Offers[]>([])
const problem = ref('')
const term = ref('')
/** Enter was pressed, and the list had not followed yet. */
const asked = ref(false)
/** Until the first objects are there, nothing typed can be said not to be. */
const reading = ref(true)

/** Runs offered; older ones are found in their list. */
const MOST_RUNS = 200

watch(open, async (is) => {
  asked.value = false
  term.value = ''
  if (!is) return
  try {
    const [plans, journeys, targets, runs, fleet] = await Promise.all([
      api('plans'),
      api('journeys'),
      api('targets'),
      api('runs', {}),
      api('fleet'),
    ])
    objects.value = [
      group('Plans', plans.map(p => ({ label: p.name, suffix: [p.question, ...p.tags].join(' · '), to: `/plans/${p.id}` }))),
      group('Runs', runs.slice(0, MOST_RUNS).map(r => ({
        label: `Run ${r.id}`,
        suffix: `${r.question} ${r.sentence}`,
        to: `/runs/${r.id}`,
      }))),
      group('Journeys', journeys.map(j => ({ label: j.name, suffix: j.tags.join(' · '), to: `/journeys/${j.id}` }))),
      group('Targets', targets.map(t => ({ label: t.name, suffix: t.baseUrl, to: `/targets/${t.id}` }))),
      group('Machines', fleet.locations.flatMap(l => l.machines).map(m => ({
        label: m.name,
        suffix: `${m.type}, ${m.state}`,
        to: `/fleet/machines/${encodeURIComponent(m.id)}`,
      }))),
    ]
    problem.value = ''
  }
  catch (error) {
    problem.value = problemOf(error).sentence
  }
  finally {
    reading.value = false
  }
}, { immediate: true })

function group(label: string, items: { label: string, suffix: string, to: string }[]): Offers {
  return { id: label, label, items: items.map(i => ({ label: i.label, suffix: i.suffix, onSelect: () => go(i) })) }
}

function go({ label, to }: { label: string, to: string }): void {
  open.value = false
  recent.value = [{ label, to }, ...recent.value.filter(r => r.to !== to)].slice(0, 6)
  void goTo(to)
}

/** Its list has no name of its own, and takes none. */
const palette = useTemplateRef('palette')
watch(
  palette,
  now => now && document.querySelector('[role=dialog] [role=listbox]')?.setAttribute('aria-label', 'What was found'),
  { flush: 'post' },
)

/** As long as its list may take to follow what was typed; what it shows first until then is not what was meant. */
const FOLLOWS_MS = 80
const { start: follow, isPending: behind } = useTimeoutFn(choose, FOLLOWS_MS, { immediate: false })
watch([term, objects], () => follow(), { flush: 'sync' })

/** Enter takes what the list shows first for what has been typed, also where it was quicker than the list. */
function enter(event: KeyboardEvent): void {
  if (!event.isTrusted || !(behind.value || reading.value)) return
  event.preventDefault()
  event.stopPropagation()
  asked.value = true
}
function choose(): void {
  if (!asked.value || reading.value) return
  asked.value = false
  document.querySelector<HTMLElement>('[role=dialog] [role=option][data-highlighted]')?.click()
}

const groups = computed<Offers[]>(() => [
  {
    id: 'acts',
    label: 'Here',
    items: acts.value
      .filter(a => a.key !== 'Ctrl+K')
      .map(a => ({
        label: a.says,
        suffix: a.price?.(),
        kbds: a.key?.split('+'),
        onSelect: () => {
          open.value = false
          // What it opens takes the focus from the palette, once that is gone and has given it back.
          void nextTick(() => setTimeout(() => a.act()))
        },
      })),
  },
  { id: 'recent', label: 'Lately', items: recent.value.map(r => ({ label: r.label, onSelect: () => go(r) })) },
  ...objects.value,
])
</script>

<template>
  <UModal v-model:open="open" title="Find anything, do anything" :ui="{ header: 'sr-only' }">
    <template #body>
      <UCommandPalette
        ref="palette"
        v-model:search-term="term"
        class="-m-3"
        placeholder="Do or go…"
        :groups="groups"
        :ui="{ input: 'border-b border-default' }"
        :fuse="{ fuseOptions: { keys: ['label', 'suffix'], ignoreLocation: true, threshold: 0.1, useExtendedSearch: true }, resultLimit: 40 }"
        @keydown.capture.enter="enter"
      >
        <template #empty="{ searchTerm }">
          <span class="q">{{ searchTerm ? `Nothing here is called “${searchTerm}”.` : 'Reading what there is…' }}</span>
        </template>
      </UCommandPalette>
      <p v-if="problem" class="brick">{{ problem }}</p>
    </template>
  </UModal>
</template>
