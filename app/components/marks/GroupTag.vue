<script setup lang="ts">
/** A group's letter in its coloured frame. */
const { letter } = defineProps<{ letter: string }>()
</script>

<template>
  <span class="tag" :style="{ borderColor: `var(--g${((letter.charCodeAt(0) - 65) % 8) + 1})` }">{{ letter }}</span>
</template>

<style scoped>
.tag {
  display: inline-grid;
  place-items: center;
  flex: none;
  width: 16px;
  height: 16px;
  border: 2.5px solid;
  border-radius: 3px;
  background: var(--panel);
  font-weight: 700;
  font-size: 10px;
  line-height: 11px;
}
</style>
