<script setup lang="ts">
/**
 * Row by row: the baseline's value, another run's, and how they differ. A table of our own: its differences are drawn
 * on one scale, which is its head.
 */
import type { CompareView } from '~~/api/views'
import { drawnDifference, rowName, rowValue, standingText } from '~~/core/compare/words'

const { view, at } = defineProps<{ view: CompareView, /** Of the run among the others. */ at: number }>()
/** Key of the row that is drawn. */
const drawn = defineModel<string>({ required: true })
const LEAST_DRAWN = 10
const MOST_DRAWN = 100
/** Wide enough for nearly all that is told, in steps of ten. */
const most = computed(() => {
  const all = view.rows.flatMap(row => [
    ...(row.others[at]!.difference ? [row.others[at]!.difference.by] : []),
    ...(row.others[at]!.yardstick ? [row.others[at]!.yardstick.least, row.others[at]!.yardstick.most] : []),
  ].map(by => Math.abs(drawnDifference(row.metric, by))))
  const wide = Math.max(LEAST_DRAWN, ...all.filter(v => v <= MOST_DRAWN))
  return Math.ceil((wide * 1.15) / 10) * 10
})
const standing = ({ others, metric }: CompareView['rows'][number]) =>
  view.coming === undefined ? standingText(others[at]!.standing, others[at]!.difference?.by, metric) : '…'
const run = computed(() => view.runs[at + 1]!)
</script>

<template>
  <table class="t">
    <thead>
      <tr>
        <th scope="col">Figure</th>
        <th scope="col" class="num">run {{ view.runs[0]!.id }}</th>
        <th scope="col" class="num">run {{ run.id }}</th>
        <th scope="col" class="scale" :aria-label="`Difference, from −${most} to +${most}`">
          <span class="ends"><span>−{{ most }}</span><b>as {{ view.runs[0]!.id }}</b><span>+{{ most }} %</span></span>
        </th>
        <th scope="col" class="num">than run {{ view.runs[0]!.id }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="row in view.rows" :key="row.key">
        <th scope="row">
          <UButton
            size="xs"
            variant="link"
            :aria-pressed="drawn === row.key"
            :class="{ drawn: drawn === row.key }"
            @click="drawn = row.key"
          >
            {{ rowName(row) }}
          </UButton>
        </th>
        <td class="num">{{ rowValue(row, row.values[0]!) }}</td>
        <td class="num"><b>{{ rowValue(row, row.values[at + 1]!) }}</b></td>
        <td class="scale"><YardstickMark :row="row" :at="at" :most="most" /></td>
        <td class="num" :class="row.others[at]!.standing === 'beyond' ? '' : 'q'">
          <component :is="row.others[at]!.standing === 'beyond' ? 'b' : 'span'">{{ standing(row) }}</component>
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.t {
  width: 100%;
  border-collapse: collapse;
}
.t th,
.t td {
  text-align: left;
  font-weight: 400;
  padding: 2px 8px;
  border-bottom: 1px solid var(--hair);
  white-space: nowrap;
}
.t thead th {
  color: var(--quiet);
  font-size: 11px;
  border-bottom-color: var(--ink);
}
.t .num {
  text-align: right;
}
.t .scale {
  width: 216px;
}
.ends {
  display: flex;
  justify-content: space-between;
  width: 200px;
}
.drawn {
  font-weight: 700;
}
</style>
