<script setup lang="ts">
/** Private hosts: one template, a table of what differs, each tried at once and said at which step it failed. */
const store = useHosts()
const live = useLive()
const keysOpen = useOpenInAddress('open', 'keys-of-hosts')
const chosen = ref<string[]>([])
const isNew = computed(() => !store.view?.sites.some(s => s.site.id === store.draft?.id))
void store.load()
live.onNews((news) => {
  if (news.kind === 'fleet' && !store.dirty) void store.load()
})
const names = computed(() => store.draft?.hosts.map(h => h.name) ?? [])
const fit = computed(() => [...store.lines.values()].filter(l => l.ok && !l.reserved).length)
async function add(): Promise<void> {
  const { draft } = store
  if (!draft) return store.begin()
  let n = draft.hosts.length + 1
  while (names.value.includes(`host-${n}`)) n++
  draft.hosts.push({ name: `host-${n}`, address: `host-${n}` })
  await focusOn(`[aria-label="address of host-${n}"]`)
}
const { armed, press } = useTwice()
watch(
  () => store.draft?.id,
  () => {
    chosen.value = []
  },
)
useActs([
  { key: 'n', needs: 'keeper', says: 'Add a host', act: add },
  { key: 'y', needs: 'operator', says: 'Try all hosts', act: () => store.tryHosts(names.value) },
  { key: 'Ctrl+S', needs: 'keeper', says: 'Save', act: () => store.save() },
])
useHead({ title: 'Private hosts · Vornak' })
</script>

<template>
  <div class="screen">
    <FleetHead>
      <UButton
        v-for="s in store.view?.sites ?? []"
        :key="s.site.id"
        size="sm"
        :variant="s.site.id === store.draft?.id ? 'soft' : undefined"
        :aria-pressed="s.site.id === store.draft?.id"

        @click="store.open(s.site)"
      >
        {{ s.site.name }}
      </UButton>
      <UButton size="sm" @click="store.begin()">New site</UButton>
    </FleetHead>
    <div class="body">
      <ProblemNote v-if="store.problem" :problem="store.problem" />
      <template v-if="store.draft">
        <section class="panel pad" aria-label="Template">
          <HostTemplateForm
            v-model="store.draft"
            :keys="store.view?.keys ?? []"
            :is-new="isNew"
            @keys="keysOpen = true"
          />
        </section>
        <section class="panel pad list" aria-label="Hosts">
          <HostTable v-model:chosen="chosen" />
          <div class="row">
            <UButton size="sm" @click="add">Add a host <UKbd>n</UKbd></UButton><span class="q s12">Paste a table anywhere in it. Reserve a host by writing who has it, until when: “Ana until 18:00”.</span>
          </div>
        </section>
        <HostCommandPanel v-if="!isNew" :hosts="chosen.map(n => `${store.draft!.id}/${n}`)" />
      </template>
      <p v-else-if="store.view" class="q">
        No private site yet. A site is a number of servers of one’s own that are reached in the same way. Vornak signs
        in over SSH, brings its generator, and takes it away afterwards.
        <UButton @click="store.begin()">Set up the first site</UButton>
      </p>
      <p v-else-if="!store.problem" class="q">Reading the hosts…</p>
    </div>
    <div v-if="store.draft" class="sill">
      <span class="q">{{ fit }} of {{ names.length }} hosts are fit and free to be used. Nothing stays on a host after a run.</span><span class="spring" />
      <UButton v-if="!isNew" v-needs="'keeper'" color="error" @click="press(store.remove)">
        {{ armed ? `Press again: ${names.length} hosts are forgotten` : 'Remove the site' }}
      </UButton>
      <UButton v-needs="'keeper'" :aria-disabled="!store.dirty" @click="store.save()">
        {{ store.dirty ? 'Save' : 'Saved' }} <UKbd>Ctrl S</UKbd>
      </UButton>
      <UButton variant="solid" :aria-disabled="names.length === 0" @click="names.length && store.tryHosts(names)">
        Try all {{ names.length }} <UKbd>y</UKbd>
      </UButton>
    </div>
    <KeyRoomDialog v-model="keysOpen" />
  </div>
</template>

<style scoped>
.spring {
  flex: 1;
}
.pad {
  padding: 10px 12px;
}
.list {
  margin-top: 12px;
}
.row {
  display: flex;
  gap: 12px;
  align-items: center;
  padding-top: 8px;
}
.on {
  background: var(--sel);
  border-color: var(--ink);
}
</style>
