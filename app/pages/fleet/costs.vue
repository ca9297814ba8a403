<script setup lang="ts">
/**
 * What machines cost: today, by day, by run and by plan; forecast, reckoned and billed side by side; and the guard
 * rails that refuse.
 */
import type { CostsView } from '~~/api/views'
import { count, euro } from '~/format/figures'

const live = useLive()
const { problem, guarded, read } = useGuarded()
const { found: view, load } = read<CostsView>('costs')
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
    await api('rails', 'PUT', { rails: { ...view.value!.rails, [rail]: n } })
    await load()
  })
  return true
}
useHead({ title: 'Costs · Vornak' })
</script>

<template>
  <div class="screen">
    <FleetHead><a class="btn" href="/api/fleet/machines.csv">Machines and costs as CSV</a></FleetHead>
    <div class="body">
      <ProblemNote v-if="problem" :problem="problem" />
      <div v-if="view" class="two">
        <div>
          <section class="panel pad" aria-label="Today">
            <div class="strip">
              <div>
                <b class="fig" :class="{ brick: view.today > view.rails.budgetPerDay }">{{ euro(view.today) }}</b
                ><span class="q">today, of {{ euro(view.rails.budgetPerDay) }}</span>
              </div>
              <div>
                <b class="fig planned">{{ euro(view.committed) }}</b
                ><span class="q">still to come, should every lease run to its end</span>
              </div>
              <div>
                <b class="fig">{{ euro(live.meter?.perHour ?? 0) }}/h</b
                ><span class="q">now, {{ live.meter?.machinesOut ?? 0 }} machines out</span>
              </div>
            </div>
          </section>
          <section class="panel pad below" aria-label="By run">
            <h2>By run</h2>
            <table v-if="view.runs.length" class="table">
              <thead>
                <tr>
                  <th>Run</th>
                  <th>Plan</th>
                  <th class="num">Machines</th>
                  <th class="num">Forecast</th>
                  <th class="num">Reckoned</th>
                  <th class="num">Billed</th>
                </tr>
              </thead>
              <tbody>
                <tr v-for="r in view.runs" :key="r.runId">
                  <td>
                    <NuxtLink :to="`/runs/${r.runId}`" class="u">Run {{ r.runId }}</NuxtLink>
                  </td>
                  <td>{{ r.plan }}</td>
                  <td class="num">{{ count(r.machines) }}</td>
                  <td class="num">
                    <span v-if="r.forecast !== undefined" class="planned">{{ euro(r.forecast) }}</span
                    ><template v-else>–</template>
                  </td>
                  <td class="num">{{ euro(r.cost) }}</td>
                  <td class="num">
                    <span v-if="r.billed !== undefined" class="measured">{{ euro(r.billed) }}</span
                    ><span v-else class="q" title="Its provider has not billed it, or publishes no bills">–</span>
                  </td>
                </tr>
              </tbody>
            </table>
            <p v-else class="q">No machine has worked for a run in the last days.</p>
          </section>
        </div>
        <div>
          <section class="panel pad" aria-label="Guard rails">
            <h2>Guard rails</h2>
            <p class="q s12">What is past them is refused, not only warned of.</p>
            <div class="rails">
              <label v-for="[rail, says] in RAILS" :key="rail"
              ><span>{{ says }}</span
              ><DraftInput
                class="field"
                inputmode="decimal"
                :value="view.rails[rail]"
                :accept="text => setRail(rail, text)"
              /></label>
            </div>
          </section>
          <section class="panel pad below" aria-label="By day and plan">
            <h2>By day</h2>
            <table class="table">
              <tbody>
                <tr v-for="d in view.byDay" :key="d.day">
                  <td>{{ day.format(d.day) }}</td>
                  <td class="num">{{ euro(d.cost) }}</td>
                </tr>
              </tbody>
            </table>
            <h2>By plan, these days</h2>
            <table class="table">
              <tbody>
                <tr v-for="p in view.plans" :key="p.plan">
                  <td>{{ p.plan }}</td>
                  <td class="num">{{ euro(p.cost) }}</td>
                </tr>
              </tbody>
            </table>
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
.rails label {
  display: grid;
  grid-template-columns: 1fr 90px;
  align-items: center;
  font-size: 12.5px;
}
.rails .field {
  text-align: right;
}
.u {
  text-decoration: underline;
}
</style>
