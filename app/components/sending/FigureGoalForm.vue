<script setup lang="ts">
/** Where figures of runs are sent while they load: kept, tried, forgotten. */
import type { SendingView } from '~~/api/views'
import { ago } from '~/format/moments'

const { goal, mayChange } = defineProps<{ goal: SendingView['figures'], mayChange: boolean }>()
const emit = defineEmits<{ saved: [] }>()
const live = useLive()
const { problem, guarded } = useGuarded()
const draft = reactive({ address: '', everyS: 10, authorization: '' })
watch(
  () => goal,
  (kept) => {
    if (kept) Object.assign(draft, { address: kept.address, everyS: kept.everyS, authorization: '' })
  },
  { immediate: true },
)
const save = () => guarded(async () => {
  const { authorization, ...rest } = draft
  await api('setFigureGoal', {}, { ...rest, address: rest.address.trim(), ...(authorization ? { authorization } : {}) })
  draft.authorization = ''
  emit('saved')
})
const forget = () => guarded(async () => {
  await api('removeFigureGoal')
  Object.assign(draft, { address: '', everyS: 10, authorization: '' })
  emit('saved')
})
const isTrying = ref(false)
async function tryIt(): Promise<void> {
  isTrying.value = true
  const went = await guarded(() => api('tryFigureGoal'))
  isTrying.value = false
  if (went) useToast().add({ title: 'It was taken.' })
}
</script>

<template>
  <FaultForm :problem="problem" class="panel pad dialog-form" aria-label="Figures" @submit="save">
    <h2>Figures</h2>
    <p class="q s12">Of every run that loads, by step and location, in the open telemetry protocol (OTLP over HTTP, JSON).</p>
    <p v-if="!goal" class="q">They are sent nowhere.</p>
    <p v-else-if="goal.trouble" class="brick">Not taken: {{ goal.trouble }}</p>
    <p v-else-if="goal.sentAt !== undefined" class="q">Taken {{ ago(goal.sentAt, live.controllerNow) }}.</p>
    <template v-if="mayChange">
      <UFormField name="address" label="Address"><UInput v-model="draft.address" required maxlength="2000" placeholder="https://metrics.example/v1/metrics" /></UFormField>
      <div class="pair">
        <UFormField name="everyS" label="Every, s"><NumberInput v-model="draft.everyS" :min="1" :max="300" whole /></UFormField>
        <UFormField name="authorization" label="Authorization" hint="value of that header">
          <UInput v-model="draft.authorization" type="password" maxlength="4000" autocomplete="off" :placeholder="goal?.hasSecret ? 'kept, sealed' : 'none'" />
        </UFormField>
      </div>
      <div class="acts">
        <UButton v-needs="'keeper'" type="submit" variant="solid">Save</UButton>
        <UButton v-if="goal" @click="forget">Forget it</UButton>
        <UButton v-if="goal" :loading="isTrying" @click="tryIt">Try it</UButton>
      </div>
    </template>
  </FaultForm>
</template>

<style scoped>
.pad {
  padding: 10px 12px;
}
.pair {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 2fr);
  gap: 8px;
}
.acts {
  display: flex;
  gap: 8px;
}
</style>
