<script setup lang="ts">
/** A location's three letters in a thin frame. */
const { code } = defineProps<{ code: string }>()
</script>

<template>
  <span class="code">{{ code }}</span>
</template>

<style scoped>
.code {
  display: inline-block;
  flex: none;
  border: 1px solid currentColor;
  border-radius: 2px;
  font-weight: 640;
  font-size: 11px;
  line-height: 14px;
  letter-spacing: 0.06em;
  padding: 0 3px 0 4px;
  height: 16px;
}
</style>
