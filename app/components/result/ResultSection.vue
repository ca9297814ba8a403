<script setup lang="ts">
/** A named section of a result: its head, with what is said or chosen there, and, in its turn, what it shows. */
defineProps<{ title: string, hint?: string }>()
defineSlots<{ default(): unknown, head?(): unknown }>()
const isMade = useTurn()
</script>

<template>
  <section class="band">
    <div class="bandh">
      <h2>{{ title }}</h2><span v-if="hint" class="q">{{ hint }}</span><slot name="head" />
    </div>
    <div class="panel pad"><slot v-if="isMade" /></div>
  </section>
</template>

<style scoped>
.band {
  margin-top: 12px;
}
.bandh {
  display: flex;
  gap: 10px;
  align-items: center;
  min-height: 26px;
  white-space: nowrap;
  font-size: 12.5px;
}
.pad {
  padding: 4px 12px 6px;
}
@media (max-width: 900px) {
  .bandh {
    flex-wrap: wrap;
    white-space: normal;
  }
}
</style>
