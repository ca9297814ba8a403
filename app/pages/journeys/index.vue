<script setup lang="ts">
/**
 * All journeys, and the ways to a new one: by hand, from addresses, a browser's capture, an OpenAPI document, or a
 * file.
 */
import type { JourneyLine } from '~~/api/views'
import type { HttpJourney, Journey } from '~~/core/journey/journey'
import { seconds } from '~/format/journeys'
import { dayTime } from '~/format/moments'

const live = useLive()
const { problem, guarded, read } = useGuarded()
const { found: journeys, load } = read<JourneyLine[]>('journeys')
const wanted = ref('')
const pasting = ref(false)
const search = useTemplateRef<HTMLInputElement>('search')

const shown = computed(() =>
  journeys.value?.filter(j =>
    wanted.value
      .toLowerCase()
      .split(/\s+/)
      .every(w => `${j.name} ${j.tags.join(' ')} ${j.plans.join(' ')}`.toLowerCase().includes(w)),
  ),
)

const make = (journey: Journey) =>
  guarded(async () => {
    const saved = await api<{ id: string }>('journeys', 'POST', { journey })
    await navigateTo(`/journeys/${saved.id}`)
  })
const EMPTY: HttpJourney = {
  schema: 'vornak-journey/1',
  kind: 'http',
  id: 'new',
  name: 'New journey',
  identity: 'kept',
  opening: [],
  round: [
    {
      name: 'Start',
      method: 'GET',
      url: '/',
      think: { kind: 'uniform', fromMs: 1000, toMs: 3000 },
      timeoutMs: 10_000,
      expect: [{ kind: 'status', allow: '200' }],
    },
  ],
  closing: [],
}
const clone = (id: string) =>
  guarded(async () => {
    const { journey } = await api<{ journey: Journey }>(`journeys/${id}`)
    await make({ ...journey, name: `${journey.name} (copy)`.slice(0, 80) })
  })
const remove = (line: JourneyLine) =>
  guarded(async () => {
    await api(`journeys/${line.id}/remove`, 'POST')
    await load()
  })
useKeys([
  { key: 'n', says: 'New journey', act: () => void make(EMPTY) },
  {
    key: 'p',
    says: 'Paste addresses',
    act: () => {
      pasting.value = true
    },
  },
  { key: '/', says: 'Search', act: () => search.value?.focus() },
])
useHead({ title: 'Journeys · Vornak' })
</script>

<template>
  <div class="screen">
    <div class="screen-head head">
      <LibraryTabs />
      <span class="spring" />
      <input
        ref="search"
        v-model="wanted"
        class="field"
        type="search"
        placeholder="Search names and tags  /"
        aria-label="Search journeys"
      >
    </div>
    <div class="body">
      <ProblemNote v-if="problem" :problem="problem" class="trouble" />
      <div v-if="shown?.length" class="panel">
        <table class="table">
          <thead>
            <tr>
              <th>Journey</th>
              <th>Tags</th>
              <th class="num">Steps</th>
              <th class="num">Pauses a pass</th>
              <th>Walked in</th>
              <th>Version</th>
              <th><span class="sr">Acts</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="j in shown" :key="j.id">
              <td>
                <NuxtLink :to="`/journeys/${j.id}`" class="name"
                ><b>{{ j.name }}</b></NuxtLink
                ><template v-if="j.kind === 'command'"> <span class="q">a command</span></template>
                <div v-if="j.problems" class="brick s12">
                  <AGlyph name="inTheWay" word="in the way" /> {{ j.problems }}
                  {{ j.problems === 1 ? 'fault' : 'faults' }}
                </div>
              </td>
              <td class="q">{{ j.tags.join(', ') }}</td>
              <td class="num">{{ j.steps }}</td>
              <td class="num">{{ j.kind === 'http' ? seconds(j.passThinkMs) : '–' }}</td>
              <td class="q">{{ j.plans.join(', ') || 'no plan' }}</td>
              <td class="q">
                {{ j.version }}<template v-if="j.savedAt">, {{ dayTime(j.savedAt, live.controllerNow) }}</template>
              </td>
              <td class="num acts">
                <a class="btn link sm" :href="`/api/journeys/${j.id}/text`" download>YAML</a
                ><button class="btn link sm" @click="clone(j.id)">Clone</button
                ><button class="btn link sm" @click="remove(j)">Remove</button>
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <p v-else-if="journeys?.length" class="q">No journey has “{{ wanted }}” in its name or tags.</p>
      <p v-else-if="journeys" class="q">
        No journey yet. Paste an address, import what a browser recorded, or begin by hand: see below.
      </p>
      <p v-else-if="!problem" class="q">Reading the journeys…</p>
    </div>
    <footer class="sill">
      <span class="q clip">What one user does.</span>
      <span class="spring" />
      <button class="btn" @click="pasting = true">Paste addresses <kbd>p</kbd></button>
      <NuxtLink class="btn" to="/journeys/import/har">From a browser’s capture</NuxtLink>
      <NuxtLink class="btn" to="/journeys/import/openapi">From OpenAPI</NuxtLink>
      <NuxtLink class="btn" to="/journeys/import/text">From YAML</NuxtLink>
      <NuxtLink class="btn" to="/journeys/import/command">A command</NuxtLink>
      <button class="btn act" @click="make(EMPTY)">New journey <kbd>n</kbd></button>
    </footer>
    <PasteAddresses v-model="pasting" />
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
.field {
  width: 240px;
}
.trouble {
  margin-bottom: 8px;
}
.panel {
  padding: 2px 12px;
}
.name:hover {
  text-decoration: underline;
}
.acts {
  white-space: nowrap;
}
td {
  vertical-align: middle;
}
tr:last-child td {
  border-bottom: 0;
}
</style>
