<script setup lang="ts">
/** Clients: named sets of headers by which users tell the target what they are; presets and one's own. */
import type { ClientsView } from '~~/api/views'
import type { Client } from '~~/core/client/client'
import type { ListColumn } from '~/components/marks/list-table'

const { problem, guarded, read } = useGuarded()
const { found: view, load } = read('clients')
const chosen = ref<string>()
/** The client under the form; a new one may begin as a copy. */
const editing = ref<{ client?: Client, isNew: boolean }>()

type Line = ClientsView['clients'][number]
const line = computed(() => view.value?.clients.find(c => c.client.id === chosen.value))
const columns: ListColumn<Line>[] = [
  { id: 'name', head: 'Client', value: l => l.client.name },
  { id: 'id', head: 'Short name', value: l => l.client.id },
  { id: 'says', head: 'Says it is', wide: true, value: l => saysOf(l.client) },
  { id: 'headers', head: 'Headers', num: true, value: l => l.client.headers.length },
  { id: 'plans', head: 'Plans', num: true, value: l => l.plans.length },
]
/** By what it is known first: its user agent, or else its first header. */
function saysOf({ headers }: Client): string {
  const [, value] = headers.find(([name]) => name.toLowerCase() === 'user-agent') ?? headers[0]!
  return value
}
function choose(id: string): void {
  chosen.value = id === chosen.value ? undefined : id
  editing.value = undefined
}
const removal = useRemoval(load)
const remove = (id: string) =>
  guarded(async () => {
    await api('removeClient', { client: id })
    chosen.value = undefined
    await removal('client', id, id)
  })
async function saved(id: string): Promise<void> {
  editing.value = undefined
  await load()
  chosen.value = id
}
function begin(client?: Client): void {
  editing.value = { isNew: true, ...(client ? { client } : {}) }
}
useActs([{ key: 'n', needs: 'operator', says: 'New client', act: () => begin() }])
useHead({ title: 'Clients · Vornak' })
</script>

<template>
  <div class="screen">
    <div class="screen-head">
      <LibraryTabs /><span class="spring" /><UButton variant="solid" @click="begin()">New client <UKbd>n</UKbd></UButton>
    </div>
    <div class="body">
      <ProblemNote v-if="problem" :problem="problem" />
      <p class="q s12 what">
        What the program of a user says of itself: headers that go with every request that does not write them itself.
        A group has a mix of them, dealt out as evenly as networks; its figures are told apart by client.
      </p>
      <div v-if="view" class="two" :class="{ opened: line || editing }">
        <ListTable name="clients" :rows="view.clients" :columns="columns" :row-key="l => l.client.id">
          <template #name="{ row }">
            <UButton
              variant="link"
              size="sm"
              :aria-pressed="row.client.id === chosen"
              @click="choose(row.client.id)"
            >{{ row.client.name }}</UButton>
          </template>
          <template #id="{ row }"><span class="mono">{{ row.client.id }}</span><span v-if="row.preset" class="q s12"> preset</span></template>
          <template #says="{ row }"><span class="mono clip">{{ saysOf(row.client) }}</span></template>
        </ListTable>
        <div v-if="editing" class="side">
          <ClientForm
            :key="`${editing.isNew} ${editing.client?.id}`"
            :client="editing.client"
            :is-new="editing.isNew"
            :taken="editing.isNew ? view.clients.map(c => c.client.id) : []"
            @saved="saved"
            @cancelled="editing = undefined"
          />
        </div>
        <aside v-else-if="line" class="panel side detail" :aria-label="line.client.name">
          <h2>{{ line.client.name }}</h2>
          <p v-if="line.client.source" class="q s12">{{ line.client.source }}</p>
          <dl class="headers">
            <template v-for="[name, value] in line.client.headers" :key="name">
              <dt class="mono q">{{ name }}</dt>
              <dd class="mono">{{ value }}</dd>
            </template>
          </dl>
          <p class="q s12">
            {{ line.plans.length ? `In ${line.plans.join(', ')}.` : 'In no plan yet: a group’s sheet takes it by its short name.' }}
          </p>
          <div class="ends">
            <UButton size="sm" @click="begin(line.client)">Make a copy</UButton>
            <UButton v-if="!line.preset" v-needs="'operator'" size="sm" @click="editing = { client: line.client, isNew: false }">Edit</UButton>
            <UButton v-if="!line.preset" v-needs="'operator'" size="sm" @click="remove(line.client.id)">Remove</UButton>
          </div>
        </aside>
      </div>
      <p v-else-if="!problem" class="q">Reading the clients…</p>
    </div>
  </div>
</template>

<style scoped>
.screen-head {
  display: flex;
  align-items: center;
  gap: 12px;
}
.spring {
  flex: 1;
}
.what {
  margin-bottom: 6px;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
  align-items: start;
}
.two.opened {
  grid-template-columns: minmax(0, 1fr) 400px;
}
.detail {
  padding: 10px 12px;
  display: grid;
  gap: 8px;
}
.headers {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: 4px 12px;
  font-size: 12px;
}
.headers dt {
  white-space: nowrap;
}
.headers dd {
  overflow-wrap: anywhere;
}
.ends {
  display: flex;
  gap: 8px;
}
</style>
