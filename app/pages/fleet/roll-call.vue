<script setup lang="ts">
/** The roll call of everybody who is connected: what each is and what it reaches. */

const live = useLive()
const { problem, guarded, read } = useGuarded()
const { found: view, load } = read('rollCall')
const { found: targets } = read('targets')
const target = ref('')
const calling = ref(false)
watch(targets, (list) => {
  target.value ||= list?.find(t => t.approval)?.id ?? ''
})
live.onNews((news) => {
  if (news.kind === 'fleet') void load()
})
const call = (machines?: string[]) =>
  guarded(async () => {
    calling.value = true
    await api('callRoll', {}, {
      ...(machines ? { machines } : {}),
      ...(target.value ? { targetId: target.value } : {}),
    })
    setTimeout(() => {
      calling.value = false
    }, 1500)
  })
useActs([{ key: 'r', needs: 'operator', says: 'Call the roll of all', act: () => void call() }])
useHead({ title: 'Roll call · Vornak' })
</script>

<template>
  <div class="screen">
    <FleetHead>
      <UFormField label="reaching" orientation="horizontal">
        <PickOne
          v-model="target"
          :items="[
            { value: '', label: 'nobody' },
            ...(targets ?? []).map(t => ({ value: t.id, label: t.name })),
          ]"
        />
      </UFormField>
      <UButton v-needs="'operator'" variant="solid" :aria-disabled="!view?.machines.length" @click="view?.machines.length && call()">
        {{
          calling
            ? 'Calling…'
            : view?.machines.length
              ? `Call the roll of ${view.machines.length}`
              : 'Nobody is connected'
        }}
        <UKbd>r</UKbd>
      </UButton>
    </FleetHead>
    <div class="body">
      <ProblemNote v-if="problem" :problem="problem" />
      <div v-if="view?.machines.length" class="panel pad"><RollCallTable :view="view" :ask="id => call([id])" /></div>
      <p v-else-if="view" class="q">
        Nobody is connected now. A run calls the roll of its machines by itself and keeps the answers: they are on its
        own screen. Machines that are kept warm, or that enrolled by themselves, can be called here.
      </p>
    </div>
  </div>
</template>

<style scoped>
.pad {
  padding: 4px 10px;
  overflow-x: auto;
}
</style>
