<script setup lang="ts">
/** All versions of a plan, and what any of them changed against what is on the sheet. */
import { changesBetween } from '~~/core/checks/differences'
import type { Plan } from '~~/core/plan/document'
import { dayTime } from '~/format/moments'
import { present } from '~~/core/values/present'

const emit = defineEmits<{ close: [] }>()
const store = usePlan()
const live = useLive()
const { problem, guarded } = useGuarded()
const saved = () => present(store.view, 'the plan whose versions these are')
const chosen = ref(saved().history[1]?.version ?? saved().version)
const at = computed({
  get: () => saved().history.findIndex(h => h.version === chosen.value),
  set: (i) => {
    chosen.value = saved().history[i]!.version
  },
})
const then = ref<Plan>()
const changes = computed(() =>
  then.value && store.plan ? changesBetween(then.value, store.plan, store.view?.journeys) : [],
)

watch(
  chosen,
  async (version) => {
    await guarded(async () => {
      then.value = (await api('plan', { plan: saved().id, version })).plan
    })
  },
  { immediate: true },
)

function bringBack(): void {
  // A copy of a plan is one.
  const old = JSON.parse(JSON.stringify(then.value)) as Plan
  store.edit((p) => {
    for (const key of Object.keys(p)) if (!(key in old)) Reflect.deleteProperty(p, key)
    Object.assign(p, old)
  })
}
async function clone(): Promise<void> {
  const id = await store.clone(chosen.value)
  if (id) await goTo(`/plans/${id}`)
}
</script>

<template>
  <aside class="panel beside" aria-label="Versions of the plan">
    <header>
      <h2>Versions</h2>
      <span class="spring" /><UButton size="sm" @click="emit('close')">Close <UKbd>v</UKbd></UButton>
    </header>
    <RowList v-model="at" class="list" :rows="saved().history" :row-key="h => h.version" label="Versions">
      <template #row="{ row: h }">
        <b>{{ h.version }}</b> {{ h.name }} <span class="q">saved {{ dayTime(h.savedAt, live.controllerNow) }}</span>
      </template>
    </RowList>
    <div class="diff">
      <ProblemNote v-if="problem" :problem="problem" />
      <p class="s12 q">
        {{ changes.length }} {{ changes.length === 1 ? 'change' : 'changes' }} from version {{ chosen }} to the sheet
      </p>
      <dl>
        <template
          v-for="(c, i) in changes"
          :key="i"
        ><dt>{{ c.what }}</dt>
          <dd>
            <span class="was">{{ c.before }}</span> → <b>{{ c.after }}</b>
          </dd></template>
      </dl>
    </div>
    <footer>
      <UButton v-needs="'operator'" :disabled="!changes.length" @click="bringBack">Bring version {{ chosen }} back</UButton><UButton v-needs="'operator'" @click="clone">Clone it</UButton>
    </footer>
  </aside>
</template>

<style scoped>
.beside {
  display: grid;
  grid-template-rows: auto fit-content(200px) 1fr auto;
  min-height: 0;
  min-width: 0;
}
header,
footer {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 6px 10px;
}
.spring {
  flex: 1;
}
.list {
  overflow: auto;
  border-top: 1px solid var(--hair);
  border-bottom: 1px solid var(--hair);
}
.diff {
  overflow: auto;
  padding: 6px 10px;
}
dt {
  font-weight: 600;
  font-size: 12px;
  margin-top: 6px;
}
dd {
  font-size: 12.5px;
  overflow-wrap: anywhere;
}
.was {
  color: var(--quiet);
  text-decoration: line-through;
}
</style>
