<script setup lang="ts">
/** Targets: systems under load, with what their owners have agreed to. */
import type { Target } from '~~/core/journey/target'
import { count } from '~/format/figures'
import { dayTime } from '~/format/moments'

const live = useLive()
const { problem, guarded, read } = useGuarded()
const { found: targets } = read<Target[]>('targets')
const make = () =>
  guarded(async () => {
    const saved = await api<Target>('targets', 'POST', {
      target: { id: 'new', name: 'New target', environment: 'test', baseUrl: 'http://localhost' },
    })
    await navigateTo(`/targets/${saved.id}`)
  })
const over = (t: Target) => t.approval !== undefined && Date.parse(t.approval.until) < live.controllerNow
useKeys([{ key: 'n', says: 'New target', act: () => void make() }])
useHead({ title: 'Targets · Vornak' })
</script>

<template>
  <div class="screen">
    <div class="screen-head"><LibraryTabs /></div>
    <div class="body">
      <ProblemNote v-if="problem" :problem="problem" class="gap" />
      <div v-if="targets?.length" class="panel pad">
        <table class="table">
          <thead>
            <tr>
              <th>Target</th>
              <th>Environment</th>
              <th>Address</th>
              <th>Approval</th>
              <th class="num">Most users</th>
              <th>Until</th>
              <th>Who agreed</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="t in targets" :key="t.id">
              <td>
                <NuxtLink :to="`/targets/${t.id}`" class="name"
                ><b>{{ t.name }}</b></NuxtLink
                >
              </td>
              <td>
                {{ t.environment
                }}<span v-if="t.environment === 'production'" class="plantx"> carries load of its own</span>
              </td>
              <td class="mono">{{ t.baseUrl }}</td>
              <template v-if="t.approval">
                <td>
                  <AGlyph
                    :name="over(t) ? 'broken' : 'held'"
                    :class="over(t) ? 'brick' : 'moss'"
                    :word="over(t) ? 'over' : 'given'"
                  />
                  {{ over(t) ? 'over' : t.approval.hosts.join(', ')
                  }}<span v-if="t.approval.window" class="q">
                    {{ t.approval.window.from }} to {{ t.approval.window.to }}</span
                  >
                </td>
                <td class="num">{{ count(t.approval.mostUsers) }}</td>
                <td>{{ dayTime(Date.parse(t.approval.until), live.controllerNow) }}</td>
                <td class="q">{{ t.approval.contact }}</td>
              </template>
              <td v-else colspan="4" class="brick">
                <AGlyph name="inTheWay" word="in the way" /> nothing may be sent yet
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <p v-else-if="targets" class="q">No target yet: the system under load, and what its owner agrees to.</p>
      <p v-else-if="!problem" class="q">Reading the targets…</p>
    </div>
    <footer class="sill">
      <span class="q">One journey and one plan run against several targets by choosing another.</span
      ><span class="spring" /><button class="btn act" @click="make">New target <kbd>n</kbd></button>
    </footer>
  </div>
</template>

<style scoped>
.gap {
  margin-bottom: 8px;
}
.pad {
  padding: 2px 12px;
}
.name:hover {
  text-decoration: underline;
}
tr:last-child td {
  border-bottom: 0;
}
</style>
