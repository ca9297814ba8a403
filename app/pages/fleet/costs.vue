<script setup lang="ts">
/**
 * What machines cost: today, by day, by run and by plan; forecast, reckoned and billed side by side; and the guard
 * rails that refuse.
 */
import type { CostsView } from '~~/api/views'
import type { ListColumn } from '~/components/marks/list-table'
import { count, euro } from '~~/core/values/said-figures'
import { present } from '~~/core/values/present'

const live = useLive()
const { problem, guarded, read } = useGuarded()
const { found: view, load } = read('costs')
live.onNews((news) => {
  if (news.kind === 'fleet') void load()
})
const RAILS = [
  ['budgetPerDay', 'A day costs at most, €'],
  ['budgetPerRun', 'A run costs at most, €'],
  ['mostMachines', 'Machines out at once, at most'],
  ['mostUsers', 'Users of a plan, at most'],
  ['longestRunMin', 'A load lasts at most, min'],
] as const
const day = new Intl.DateTimeFormat('en-GB', { weekday: 'short', day: 'numeric', month: 'short' })
function setRail(rail: (typeof RAILS)[number][0], text: string): boolean {
  const n = Number(text.replace(',', '.'))
  if (text.trim() === '' || !(n >= 0) || (!rail.startsWith('budget') && !Number.isInteger(n))) return false
  void guarded(async () => {
    await api('saveRails', {}, { rails: { ...present(view.value, 'the rails that are changed').rails, [rail]: n } })
    await load()
  })
  return true
}
useHead({ title: 'Costs · Vornak' })
const RUN_COLUMNS: ListColumn<CostsView['runs'][number]>[] = [
  { id: 'run', head: 'Run', value: r => r.runId },
  { id: 'plan', head: 'Plan', value: r => r.plan },
  { id: 'machines', head: 'Machines', num: true, value: r => r.machines },
  { id: 'forecast', head: 'Forecast', num: true, value: r => r.forecast },
  { id: 'cost', head: 'So far', num: true, value: r => r.cost },
  { id: 'billed', head: 'Billed', num: true, value: r => r.billed },
]
const DAY_COLUMNS: ListColumn<CostsView['byDay'][number]>[] = [
  { id: 'day', head: '', value: d => d.day },
  { id: 'cost', head: '', num: true, value: d => d.cost },
]
const PLAN_COLUMNS: ListColumn<CostsView['plans'][number]>[] = [
  { id: 'plan', head: '', value: p => p.plan },
  { id: 'cost', head: '', num: true, value: p => p.cost },
]
</script>

<template>
  <div class="screen">
    <FleetHead><UButton external :to="hrefTo('machinesFile')">Machines and costs as CSV</UButton></FleetHead>
    <div class="body">
      <ProblemNote v-if="problem" :problem="problem" />
      <div v-if="view" class="two">
        <div>
          <section class="panel pad" aria-label="Today">
            <div class="strip">
              <div>
                <b class="fig" :class="{ brick: view.today > view.rails.budgetPerDay }">{{ euro(view.today) }}</b><span class="q">today, of {{ euro(view.rails.budgetPerDay) }}</span>
              </div>
              <div>
                <b class="fig planned">{{ euro(view.committed) }}</b><span class="q">still to come, should every lease run to its end</span>
              </div>
              <div>
                <b class="fig">{{ euro(live.meter?.perHour ?? 0) }}/h</b><span class="q">now, {{ live.meter?.machinesOut ?? 0 }} machines out</span>
              </div>
            </div>
          </section>
          <section class="panel pad below" aria-label="By run">
            <h2>By run</h2>
            <ListTable
              v-if="view.runs.length"
              name="costs of runs"
              :rows="view.runs"
              :columns="RUN_COLUMNS"
              :row-key="r => r.runId"
              :sorted-by="{ id: 'run', desc: true }"
            >
              <template #run="{ row }">
                <NuxtLink :to="`/runs/${row.runId}`" class="u">Run {{ row.runId }}</NuxtLink>
              </template>
              <template #machines="{ row }">{{ count(row.machines) }}</template>
              <template #forecast="{ row }">
                <span v-if="row.forecast !== undefined" class="planned">{{ euro(row.forecast) }}</span><template v-else>–</template>
              </template>
              <template #cost="{ row }">{{ euro(row.cost) }}</template>
              <template #billed="{ row }">
                <span v-if="row.billed !== undefined" class="measured">{{ euro(row.billed) }}</span>
                <span v-else class="q" title="Its provider has not billed it, or publishes no bills">–</span>
              </template>
            </ListTable>
            <p v-else class="q">No machine has worked for a run in the last days.</p>
          </section>
        </div>
        <div>
          <section class="panel pad" aria-label="Guard rails">
            <h2>Guard rails</h2>
            <p class="q s12">What is past them is refused, not only warned of.</p>
            <div class="rails">
              <UFormField v-for="[rail, says] in RAILS" :key="rail" orientation="horizontal" class="justify-between" :label="says">
                <DraftInput
                  inputmode="decimal"
                  :value="view.rails[rail]"
                  :accept="text => setRail(rail, text)"
                />
              </UFormField>
            </div>
          </section>
          <section class="panel pad below" aria-label="By day and plan">
            <h2>By day</h2>
            <ListTable plain name="costs by day" :rows="view.byDay" :columns="DAY_COLUMNS" :row-key="d => d.day">
              <template #day="{ row }">{{ day.format(row.day) }}</template>
              <template #cost="{ row }">{{ euro(row.cost) }}</template>
            </ListTable>
            <h2>By plan, these days</h2>
            <ListTable plain name="costs by plan" :rows="view.plans" :columns="PLAN_COLUMNS" :row-key="p => p.plan">
              <template #cost="{ row }">{{ euro(row.cost) }}</template>
            </ListTable>
          </section>
        </div>
      </div>
      <p v-else-if="!problem" class="q">Adding up…</p>
    </div>
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(0, 2fr) minmax(0, 1fr);
  gap: 12px;
  align-items: start;
}
.pad {
  padding: 8px 12px;
}
.below {
  margin-top: 12px;
}
h2 {
  margin: 4px 0;
}
.strip {
  display: grid;
  grid-template-columns: 1fr 1.4fr 1fr;
}
.strip > div + div {
  border-left: 1px solid var(--hair);
  padding-left: 12px;
}
.strip > div {
  display: grid;
  justify-items: start;
  gap: 2px;
}
.fig {
  font-size: 22px;
  line-height: 26px;
  font-weight: 620;
  font-stretch: 112%;
}
.rails {
  display: grid;
  gap: 6px;
  margin-top: 6px;
}
</style>
