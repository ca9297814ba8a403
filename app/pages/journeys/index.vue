<script setup lang="ts">
/**
 * All journeys, and the ways to a new one: by hand, from addresses, a browser's capture, an OpenAPI document, or a
 * file.
 */
import type { JourneyLine } from '~~/api/views'
import type { HttpJourney, Journey } from '~~/core/journey/journey'
import type { ListColumn } from '~/components/marks/list-table'
import { seconds } from '~/format/journeys'
import { dayTime } from '~/format/moments'

const live = useLive()
const { problem, guarded, readSeen } = useGuarded()
const { found: journeys, load } = readSeen('journeys')
const pasting = useOpenInAddress('open', 'addresses')

const COLUMNS: ListColumn<JourneyLine>[] = [
  { id: 'journey', head: 'Journey', value: j => j.name },
  { id: 'tags', head: 'Tags', value: j => j.tags.join(', ') },
  { id: 'steps', head: 'Steps', num: true, value: j => j.steps },
  { id: 'pauses', head: 'Pauses a pass', num: true, value: j => j.kind === 'http' ? j.passThinkMs : undefined },
  { id: 'plans', head: 'In plans', value: j => j.plans.join(', ') },
  { id: 'version', head: 'Version', num: true, value: j => j.version },
  { id: 'saved', head: 'Saved', num: true, value: j => j.savedAt },
  { id: 'acts', head: '' },
]

const make = (journey: Journey) =>
  guarded(async () => {
    const saved = await api('newJourney', {}, { journey })
    await goTo(`/journeys/${saved.id}`)
  })
const making = useOpenInAddress('open', 'new')
const draft = reactive({ name: '', url: '/' })
function begin(): void {
  making.value = true
}
/** One request to begin with. */
const begun = (): HttpJourney => ({
  schema: 'vornak-journey/1',
  kind: 'http',
  id: 'new',
  name: draft.name.trim(),
  identity: 'kept',
  opening: [],
  round: [
    {
      name: 'Start',
      method: 'GET',
      url: draft.url.trim(),
      think: { kind: 'uniform', fromMs: 1000, toMs: 3000 },
      timeoutMs: 10_000,
      expect: [{ kind: 'status', allow: '200' }],
    },
  ],
  closing: [],
})
const clone = (id: string) =>
  guarded(async () => {
    const { journey } = await api('journey', { journey: id })
    await make({ ...journey, name: `${journey.name} (copy)`.slice(0, 80) })
  })
const removal = useRemoval(load)
const remove = (line: JourneyLine) =>
  guarded(async () => {
    await api('removeJourney', { journey: line.id })
    await removal('journey', line.id, line.name)
  })
useActs([
  { key: 'n', needs: 'operator', says: 'New journey', act: begin },
])
useHead({ title: 'Journeys · Vornak' })
</script>

<template>
  <div class="screen">
    <div class="screen-head head">
      <LibraryTabs />
    </div>
    <div class="body">
      <ProblemNote v-if="problem" :problem="problem" class="trouble" />
      <ListTable
        v-if="journeys?.length"
        name="journeys"
        :rows="journeys"
        :columns="COLUMNS"
        :row-key="j => j.id"
        height="calc(100dvh - 180px)"
        search="Find by name, tag, plan"
      >
        <template #journey="{ row }">
          <NuxtLink :to="`/journeys/${row.id}`" class="u"><b>{{ row.name }}</b></NuxtLink>
          <span v-if="row.kind === 'command'" class="q"> a command</span>
          <span v-if="row.problems" class="brick s12">
            <AGlyph name="inTheWay" word="in the way" /> {{ row.problems }}
            {{ row.problems === 1 ? 'fault' : 'faults' }}
          </span>
        </template>
        <template #tags="{ row }"><span class="q">{{ row.tags.join(', ') }}</span></template>
        <template #pauses="{ row }">{{ row.kind === 'http' ? seconds(row.passThinkMs) : '–' }}</template>
        <template #plans="{ row }"><span class="q">{{ row.plans.join(', ') || 'no plan' }}</span></template>
        <template #saved="{ row }">
          <span class="q">{{ row.savedAt ? dayTime(row.savedAt, live.controllerNow) : '–' }}</span>
        </template>
        <template #acts="{ row }">
          <UButton
            size="xs"
            variant="link"
            external
            :to="hrefTo('journeyText', { journey: row.id })"
            :aria-label="`YAML of ${row.name}`"
            download
          >
            YAML
          </UButton>
          <UButton size="xs" variant="link" :aria-label="`Clone ${row.name}`" @click="clone(row.id)">Clone</UButton>
          <UButton v-needs="'operator'" size="xs" variant="link" :aria-label="`Remove ${row.name}`" @click="remove(row)">Remove</UButton>
        </template>
      </ListTable>
      <p v-else-if="journeys" class="q">
        No journey yet. Paste an address, import what a browser recorded, or begin by hand: see below.
      </p>
      <p v-else-if="!problem" class="q">Reading the journeys…</p>
    </div>
    <footer class="sill">
      <span class="q clip">What one user does.</span>
      <span class="spring" />
      <UButton @click="pasting = true">From addresses <UKbd>i</UKbd></UButton>
      <UButton to="/journeys/import/har">From a browser’s capture</UButton>
      <UButton to="/journeys/import/openapi">From OpenAPI</UButton>
      <UButton to="/journeys/import/text">From YAML</UButton>
      <UButton to="/journeys/import/command">A command</UButton>
      <UButton v-needs="'operator'" variant="solid" @click="begin">New journey <UKbd>n</UKbd></UButton>
    </footer>
    <UModal
      v-model:open="making"
      title="New journey"
      description="What one user does. It begins with one request; the others are added on its page."
    >
      <template #body>
        <FaultForm :problem="problem" class="dialog-form" @submit="make(begun())">
          <UFormField name="journey.name" label="Name" required>
            <UInput v-model="draft.name" required maxlength="80" />
          </UFormField>
          <UFormField name="url" label="First address" required hint="at the target, or in full">
            <UInput v-model="draft.url" required />
          </UFormField>
          <UButton variant="solid" type="submit">Begin</UButton>
        </FaultForm>
      </template>
    </UModal>
  </div>
</template>

<style scoped>
.head {
  display: flex;
  align-items: center;
  gap: 12px;
}
.spring {
  flex: 1;
}
.trouble {
  margin-bottom: 8px;
}
</style>
