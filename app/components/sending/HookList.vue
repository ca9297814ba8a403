<script setup lang="ts">
/** Programs that are told of runs: where, of what; the key what they are sent is signed with is shown once. */
import { TELLS, TELLS_WORDS, type Tells } from '~~/core/dispatch/run-event'
import type { SendingView } from '~~/api/views'

const { hooks, mayChange } = defineProps<{ hooks: SendingView['hooks'], mayChange: boolean }>()
const emit = defineEmits<{ saved: [] }>()
const copy = useCopy()
const { problem, guarded } = useGuarded()
const { armed, press } = useTwice()
// It may be changed, unlike the list.
const draft = reactive({ name: '', address: '', tells: [...TELLS] as Tells[] })
const made = ref<{ name: string, secret: string }>()
const add = () => guarded(async () => {
  const { secret } = await api('newHook', {}, { ...draft, name: draft.name.trim(), address: draft.address.trim() })
  made.value = { name: draft.name.trim(), secret }
  Object.assign(draft, { name: '', address: '' })
  emit('saved')
})
const remove = (hook: number) => guarded(async () => {
  await api('removeHook', { hook })
  emit('saved')
})
const trying = ref<number>()
async function tryIt(hook: SendingView['hooks'][number]): Promise<void> {
  trying.value = hook.id
  const went = await guarded(() => api('tryHook', { hook: hook.id }))
  trying.value = undefined
  if (went) useToast().add({ title: `${hook.name} has taken it.` })
}
const toggle = (tells: Tells, is: boolean) => {
  draft.tells = TELLS.filter(t => (t === tells ? is : draft.tells.includes(t)))
}
</script>

<template>
  <section class="panel pad" aria-labelledby="hooks">
    <h2 id="hooks">Hooks</h2>
    <p class="q s12">Programs that are told of runs by a signed POST of JSON, and asked again when they do not take it.</p>
    <ProblemNote v-if="problem && !problem.faults" :problem="problem" />
    <ul class="hooks">
      <li v-for="h in hooks" :key="h.id">
        <div class="clip">
          <b>{{ h.name }}</b> <span class="font-mono">{{ h.address }}</span>
          <div class="q s12">{{ h.tells.map(t => TELLS_WORDS[t]).join('; ') }}</div>
        </div>
        <template v-if="mayChange">
          <UButton size="sm" :loading="trying === h.id" :aria-label="`Try ${h.name}`" @click="tryIt(h)">Try it</UButton>
          <UButton v-needs="'keeper'" size="sm" :aria-label="`Remove ${h.name}`" :color="armed === String(h.id) ? 'error' : undefined" @click="press(() => remove(h.id), String(h.id))">
            {{ armed === String(h.id) ? 'Press again' : 'Remove' }}
          </UButton>
        </template>
      </li>
      <li v-if="hooks.length === 0" class="q">None yet.</li>
    </ul>
    <p v-if="made" role="status">
      {{ made.name }} is signed with <b class="font-mono made">{{ made.secret }}</b>
      <UButton size="sm" variant="link" @click="copy(made.secret, 'the key')">Copy</UButton>
      <span class="q">It is shown this once.</span>
    </p>
    <FaultForm v-if="mayChange" :problem="problem?.faults && problem" class="dialog-form" @submit="add">
      <div class="pair">
        <UFormField name="name" label="Name"><UInput v-model="draft.name" required maxlength="60" placeholder="gate" /></UFormField>
        <UFormField name="address" label="Address"><UInput v-model="draft.address" required maxlength="2000" placeholder="https://gate.example/runs" /></UFormField>
      </div>
      <UFormField label="Is told of" :ui="{ container: 'grid gap-2' }">
        <UCheckbox
          v-for="t in TELLS"
          :key="t"
          :label="TELLS_WORDS[t]"
          :model-value="draft.tells.includes(t)"
          @update:model-value="toggle(t, $event === true)"
        />
      </UFormField>
      <UButton v-needs="'keeper'" type="submit" :disabled="draft.tells.length === 0" class="add">Add a hook</UButton>
    </FaultForm>
  </section>
</template>

<style scoped>
.pad {
  padding: 10px 12px;
}
.hooks {
  margin: 6px 0;
}
.hooks li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto auto;
  gap: 8px;
  align-items: center;
  padding: 4px 0;
  border-top: 1px solid var(--hair);
}
.made {
  overflow-wrap: anywhere;
}
.pair {
  display: grid;
  grid-template-columns: 150px minmax(0, 1fr);
  gap: 8px;
}
.add {
  justify-self: start;
}
</style>
