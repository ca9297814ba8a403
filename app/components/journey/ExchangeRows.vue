<script setup lang="ts" generic="R extends ExchangeRecord">
/** Exchanges one below the other, one of them chosen: right or failed, its step, what is said of it, its duration. */
import type { ExchangeRecord } from '~~/core/journey/exchange-record'
import { timeText } from '~~/core/values/said-figures'

const at = defineModel<number>({ required: true })
const { records } = defineProps<{ records: readonly R[] }>()
defineSlots<{ about(props: { record: R }): unknown, value?(props: { record: R }): unknown, after?(): unknown }>()
</script>

<template>
  <RowList v-model="at" :rows="records" :row-key="(_, i) => i" label="Exchanges">
    <template #row="{ row }">
      <span class="exchange">
        <AGlyph
          :name="row.failure === undefined ? 'held' : 'broken'"
          :class="row.failure === undefined ? 'moss' : 'brick'"
          :word="row.failure === undefined ? 'right' : 'failed'"
        />
        <span class="clip"><b>{{ row.step }}</b> <slot name="about" :record="row" /></span>
        <span class="num"><slot name="value" :record="row">{{ timeText(row.timings.wholeMs) }}</slot></span>
      </span>
    </template>
    <template #after><slot name="after" /></template>
  </RowList>
</template>

<style scoped>
.exchange {
  display: grid;
  grid-template-columns: 14px minmax(0, 1fr) auto;
  gap: 8px;
  align-items: center;
}
</style>
