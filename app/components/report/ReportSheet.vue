<script setup lang="ts">
/** The report as it is: the very page that can be kept, in a frame of its own in which nothing acts. */
const { html } = defineProps<{ html: string, title: string }>()
</script>

<template>
  <iframe class="sheet" :srcdoc="html" :title="title" sandbox="allow-same-origin" />
</template>

<style scoped>
.sheet {
  width: 100%;
  height: 100%;
  border: 0;
  background: #F7F5F0;
}
</style>
