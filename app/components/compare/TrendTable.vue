<script setup lang="ts">
/**
 * Objectives or steps over the runs of a plan, a line each: all runs as dots, the newest in numbers. A table of our
 * own: the runs stand on one scale, which is its head.
 */
import { isOutside, pointOf, type TrendLine } from '~~/core/compare/trend'
import { sayValue } from '~~/core/objectives/judge'
import { count } from '~~/core/values/said-figures'

const { what, lines, runs } = defineProps<{
  what: 'Objective' | 'Step'
  lines: readonly TrendLine[]
  /** Numbers of the runs, the oldest first. */
  runs: readonly number[]
}>()
// It is drawn only where there is a run.
const newest = computed(() => runs.at(-1)!)
const told = computed(() => lines.map(line => ({ line, own: pointOf(line, newest.value) })))
</script>

<template>
  <table class="table">
    <thead>
      <tr>
        <th scope="col">{{ what }}</th>
        <th scope="col" class="num">users</th>
        <th scope="col" class="course"><span class="ends"><span>run {{ runs[0] }}</span><span>run {{ newest }}</span></span></th>
        <th scope="col" class="num">run {{ newest }}</th>
        <th scope="col" class="num">expected, 95 %</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="{ line, own } in told" :key="`${line.users} ${line.says}`">
        <th scope="row">{{ line.says }}</th>
        <td class="num">{{ count(line.users) }}</td>
        <td class="course"><TrendStrip :line="line" :runs="runs" /></td>
        <td class="num">
          <b v-if="own" :class="{ brick: !own.held }">{{ sayValue(line.objective, own.measured) }}</b>
          <span v-else class="q">{{ what === 'Step' ? 'not measured' : 'not judged' }}</span>
        </td>
        <td class="num" :class="{ q: !isOutside(line, newest) }">
          <template v-if="line.expected"><b v-if="isOutside(line, newest)">outside </b>{{ sayValue(line.objective, line.expected.least) }} to {{ sayValue(line.objective, line.expected.most) }}</template>
          <template v-else>–</template>
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.table tbody th {
  color: var(--ink);
  white-space: normal;
}
.table td {
  vertical-align: middle;
}
.course {
  width: 45%;
}
.ends {
  display: flex;
  justify-content: space-between;
  width: 420px;
}
</style>
