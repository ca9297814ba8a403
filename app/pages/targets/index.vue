<script setup lang="ts">
/** Targets: systems under load, with what their owners have agreed to. */
import { ENVIRONMENTS, type Target } from '~~/core/journey/target'
import type { ListColumn } from '~/components/marks/list-table'
import { count } from '~~/core/values/said-figures'
import { dayTime } from '~/format/moments'

const live = useLive()
const { problem, guarded, readSeen } = useGuarded()
const { found: targets } = readSeen('targets')
const making = useOpenInAddress('open', 'new')
const draft = reactive<Omit<Target, 'id'>>({ name: '', environment: 'test', baseUrl: '' })
const make = () =>
  guarded(async () => {
    const target = { ...draft, id: 'new', name: draft.name.trim(), baseUrl: draft.baseUrl.trim().replace(/\/$/, '') }
    const saved = await api('newTarget', {}, { target })
    await goTo(`/targets/${saved.id}`)
  })
function begin(): void {
  making.value = true
}
const over = (t: Target) => t.approval !== undefined && Date.parse(t.approval.until) < live.controllerNow
const COLUMNS: ListColumn<Target>[] = [
  { id: 'target', head: 'Target', value: t => t.name },
  { id: 'environment', head: 'Environment', value: t => t.environment },
  { id: 'address', head: 'Address', value: t => t.baseUrl },
  { id: 'approval', head: 'Approval', value: t => t.approval?.hosts.join(', ') },
  { id: 'users', head: 'Most users', num: true, value: t => t.approval?.mostUsers },
  { id: 'until', head: 'Until', num: true, value: t => t.approval && Date.parse(t.approval.until) },
  { id: 'agreed', head: 'Who agreed', value: t => t.approval?.contact },
]
useActs([{ key: 'n', needs: 'operator', says: 'New target', act: begin }])
useHead({ title: 'Targets · Vornak' })
</script>

<template>
  <div class="screen">
    <div class="screen-head"><LibraryTabs /></div>
    <div class="body">
      <ProblemNote v-if="problem" :problem="problem" class="gap" />
      <ListTable
        v-if="targets?.length"
        name="targets"
        :rows="targets"
        :columns="COLUMNS"
        :row-key="t => t.id"
        height="calc(100dvh - 180px)"
      >
        <template #target="{ row }">
          <NuxtLink :to="`/targets/${row.id}`" class="u"><b>{{ row.name }}</b></NuxtLink>
        </template>
        <template #environment="{ row }">
          {{ row.environment }}
          <span v-if="row.environment === 'production'" class="plantx">carries load of its own</span>
        </template>
        <template #address="{ row }"><span class="mono">{{ row.baseUrl }}</span></template>
        <template #approval="{ row }">
          <template v-if="row.approval">
            <AGlyph
              :name="over(row) ? 'broken' : 'held'"
              :class="over(row) ? 'brick' : 'moss'"
              :word="over(row) ? 'over' : 'given'"
            /> {{ over(row) ? 'over' : row.approval.hosts.join(', ') }}
            <span v-if="row.approval.window" class="q">
              {{ row.approval.window.from }} to {{ row.approval.window.to }}
            </span>
          </template>
          <span v-else class="brick"><AGlyph name="inTheWay" word="in the way" /> nothing may be sent yet</span>
        </template>
        <template #users="{ row }">{{ row.approval ? count(row.approval.mostUsers) : '–' }}</template>
        <template #until="{ row }">
          {{ row.approval ? dayTime(Date.parse(row.approval.until), live.controllerNow) : '–' }}
        </template>
      </ListTable>
      <p v-else-if="targets" class="q">No target yet: the system under load, and what its owner agrees to.</p>
      <p v-else-if="!problem" class="q">Reading the targets…</p>
    </div>
    <footer class="sill">
      <span class="q">One journey and one plan run against several targets by choosing another.</span><span class="spring" /><UButton v-needs="'operator'" variant="solid" @click="begin">New target <UKbd>n</UKbd></UButton>
    </footer>
    <UModal
      v-model:open="making"
      title="New target"
      description="The system under load. What its owner agrees to is asked next; until then nothing is sent there."
    >
      <template #body>
        <FaultForm :problem="problem" class="dialog-form" @submit="make">
          <UFormField name="target.name" label="Name" required>
            <UInput v-model="draft.name" required maxlength="80" />
          </UFormField>
          <UFormField name="target.baseUrl" label="Address" required hint="journeys write only the rest of theirs">
            <UInput v-model="draft.baseUrl" type="url" required placeholder="https://portal.example" />
          </UFormField>
          <UFormField label="Environment">
            <PickOne v-model="draft.environment" :items="ENVIRONMENTS.map(e => ({ value: e, label: e }))" />
          </UFormField>
          <UButton variant="solid" type="submit">Begin</UButton>
        </FaultForm>
      </template>
    </UModal>
  </div>
</template>

<style scoped>
.gap {
  margin-bottom: 8px;
}
</style>
