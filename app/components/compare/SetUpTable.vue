<script setup lang="ts">
/**
 * What the runs were set up with: what differed, or all of it. A table of our own: it is read across, each row a thing
 * of its own kind; there is nothing to sort or to add up.
 */
import type { CompareView } from '~~/api/views'

const { view } = defineProps<{ view: Pick<CompareView, 'setUp' | 'runs'> }>()
const showsAll = defineModel<boolean>('all', { required: true })
const unlike = computed(() => view.setUp.filter(f => f.differs.some(Boolean)))
const shown = computed(() => (showsAll.value ? view.setUp : unlike.value))
</script>

<template>
  <div>
    <p class="q s12">
      {{ unlike.length === 0 ? 'Nothing' : unlike.length }} of {{ view.setUp.length }} things in the set-up differed
      <UButton size="xs" variant="link" :aria-pressed="showsAll" @click="showsAll = !showsAll">
        {{ showsAll ? 'only those' : 'show all' }} <UKbd>d</UKbd>
      </UButton>
    </p>
    <table v-if="shown.length > 0" class="t s12">
      <thead>
        <tr>
          <th scope="col">Set-up</th>
          <th v-for="r in view.runs" :key="r.id" scope="col">run {{ r.id }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="f in shown" :key="f.what">
          <th scope="row" class="q">{{ f.what }}</th>
          <td v-for="(says, i) in f.says" :key="i" :class="{ unlike: f.differs[i] }" :title="says">
            <template v-if="i > 0 && !f.differs[i]"><span class="q">as {{ view.runs[0]!.id }}</span></template>
            <template v-else>{{ i > 0 && says === f.says[0] ? 'otherwise' : says || 'none' }}</template>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.t {
  width: 100%;
  border-collapse: collapse;
  table-layout: fixed;
}
.t th,
.t td {
  text-align: left;
  font-weight: 400;
  padding: 3px 8px;
  border-bottom: 1px solid var(--hair);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.t thead th {
  color: var(--quiet);
  border-bottom-color: var(--ink);
}
.unlike {
  background: var(--shade);
  font-weight: 600;
}
</style>
