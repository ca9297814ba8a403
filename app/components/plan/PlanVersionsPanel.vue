<script setup lang="ts">
/** All versions of a plan, and what any of them changed against what is on the sheet. */
import { changesBetween } from '~~/core/checks/differences'
import type { Plan } from '~~/core/plan/document'
import { dayTime } from '~/format/moments'

const emit = defineEmits<{ close: [] }>()
const store = usePlan()
const live = useLive()
const { problem, guarded } = useGuarded()
const chosen = ref(store.view!.history[1]?.version ?? store.view!.version)
const then = ref<Plan>()
const changes = computed(() =>
  then.value && store.plan ? changesBetween(then.value, store.plan, store.view?.journeys) : [],
)

watch(
  chosen,
  async (version) => {
    await guarded(async () => {
      then.value = (await api<{ plan: Plan }>(`plans/${encodeURIComponent(store.view!.id)}?version=${version}`)).plan
    })
  },
  { immediate: true },
)

function bringBack(): void {
  const old = JSON.parse(JSON.stringify(then.value)) as Plan
  store.edit((p) => {
    for (const key of Object.keys(p)) if (!(key in old)) Reflect.deleteProperty(p, key)
    Object.assign(p, old)
  })
}
async function clone(): Promise<void> {
  const id = await store.clone(chosen.value)
  if (id) await navigateTo(`/plans/${id}`)
}
</script>

<template>
  <aside class="panel beside" aria-label="Versions of the plan">
    <header>
      <h2>Versions</h2>
      <span class="spring" /><button class="btn sm" @click="emit('close')">Close <kbd>v</kbd></button>
    </header>
    <ol class="list" role="listbox" aria-label="Versions">
      <li v-for="h in store.view!.history" :key="h.version">
        <button
          role="option"
          :aria-selected="h.version === chosen"
          :class="{ on: h.version === chosen }"
          @click="chosen = h.version"
        >
          <b>{{ h.version }}</b> {{ h.name }} <span class="q">saved {{ dayTime(h.savedAt, live.controllerNow) }}</span>
        </button>
      </li>
    </ol>
    <div class="diff">
      <ProblemNote v-if="problem" :problem="problem" />
      <p class="s12 q">
        {{ changes.length }} {{ changes.length === 1 ? 'change' : 'changes' }} from version {{ chosen }} to the sheet
      </p>
      <dl>
        <template v-for="(c, i) in changes" :key="i"
        ><dt>{{ c.what }}</dt>
          <dd>
            <span class="was">{{ c.before }}</span> → <b>{{ c.after }}</b>
          </dd></template
        >
      </dl>
    </div>
    <footer>
      <button class="btn" :disabled="!changes.length" @click="bringBack">Bring version {{ chosen }} back</button
      ><button class="btn" @click="clone">Clone it</button>
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
.list button {
  width: 100%;
  text-align: left;
  padding: 3px 10px;
}
.list .on {
  background: var(--sel);
  box-shadow: inset 3px 0 var(--act);
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
