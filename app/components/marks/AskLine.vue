<script setup lang="ts">
/** A line of controls by which one says what is to be shown; labels stand before theirs. */
</script>

<template>
  <div class="ask"><slot /></div>
</template>

<style scoped>
.ask {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
  align-items: center;
  padding: 2px 0 4px;
  font-size: 12.5px;
}
.ask :slotted(label) {
  display: inline-flex;
  gap: 6px;
  align-items: center;
}
</style>
