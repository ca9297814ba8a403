<script setup lang="ts">
/** Who may come in, and what they may. */
import { ROLE_SAYS } from '~~/api/roles'
import type { PersonLine } from '~~/api/views'
import type { ListColumn } from '~/components/marks/list-table'
import { ago, dayTime } from '~/format/moments'

const me = useMe()
const live = useLive()
const { problem, read } = useGuarded()
const { found: people, load } = read('people')
const adding = useOpenInAddress('open', 'person')
const chosen = useOneInAddress('open', 'person')
const person = computed(() => people.value?.find(p => String(p.id) === chosen.value))
const COLUMNS: ListColumn<PersonLine>[] = [
  { id: 'name', head: 'Name', value: p => p.name },
  { id: 'role', head: 'May', wide: true, value: p => p.role },
  { id: 'by', head: 'Signs in', value: p => p.by },
  { id: 'seen', head: 'Was here', num: true, value: p => p.seenAt },
  { id: 'since', head: 'Since', num: true, value: p => p.createdAt },
  { id: 'acts', head: '' },
]
const BY = { password: 'by password', elsewhere: 'elsewhere', both: 'by password, or elsewhere' } as const
async function added(name: string): Promise<void> {
  const wasFirst = me.isOpen
  adding.value = false
  await me.load()
  await load()
  useToast().add({ title: wasFirst ? `Signed in as ${name}.` : `${name} can sign in.` })
}
useActs([
  {
    key: 'n',
    needs: 'keeper',
    says: 'Let somebody in',
    act: () => {
      adding.value = true
    },
  },
])
useHead({ title: 'People · Vornak' })
</script>

<template>
  <div class="screen">
    <div class="screen-head">
      <PeopleTabs /><span class="spring" />
      <UButton v-if="!me.isOpen && me.may('keeper')" variant="solid" @click="adding = true">Let somebody in <UKbd>n</UKbd></UButton>
    </div>
    <div class="body two" :class="{ opened: adding || person || me.isOpen }">
      <div>
        <ProblemNote v-if="problem" :problem="problem" />
        <section v-if="people?.length" class="panel pad" aria-label="People">
          <ListTable plain name="people" :rows="people" :columns="COLUMNS" :row-key="p => p.id">
            <template #name="{ row }"><b :class="{ gone: row.leftAt }">{{ row.name }}</b></template>
            <template #role="{ row }">
              <template v-if="row.leftAt === undefined">
                {{ row.role }} <span class="q">{{ ROLE_SAYS[row.role] }}</span>
              </template>
              <span v-else class="q">not let in since {{ dayTime(row.leftAt, live.controllerNow) }}</span>
            </template>
            <template #by="{ row }">{{ BY[row.by] }}</template>
            <template #seen="{ row }">{{ row.seenAt ? ago(row.seenAt, live.controllerNow) : '–' }}</template>
            <template #since="{ row }">{{ dayTime(row.createdAt, live.controllerNow) }}</template>
            <template #acts="{ row }"><UButton size="sm" @click="chosen = String(row.id)">Change</UButton></template>
          </ListTable>
        </section>
        <p v-else-if="people && !me.isOpen" class="q">Nobody is here.</p>
        <section v-else-if="me.isOpen" class="panel pad">
          <h2>Open to this computer</h2>
          <p>
            Nobody has to sign in: anyone who is on this computer may do everything. From elsewhere nobody gets in, not
            through a proxy either, and Vornak does not start on another address than 127.0.0.1.
          </p>
          <UButton v-if="!adding" class="below" variant="solid" @click="adding = true">Make the first person</UButton>
        </section>
      </div>
      <PersonForm v-if="adding" :first="me.isOpen" @saved="added" @cancelled="adding = false" />
      <PersonPanel
        v-else-if="person"
        :key="person.id"
        :person="person"
        @saved="load"
        @cancelled="chosen = undefined"
      />
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
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
  align-items: start;
}
.two.opened {
  grid-template-columns: minmax(0, 1fr) 380px;
}
.pad {
  padding: 8px 12px;
}
.gone {
  text-decoration: line-through;
  font-weight: 400;
}
.below {
  margin-top: 8px;
}
@media (max-width: 960px) {
  .two,
  .two.opened {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
