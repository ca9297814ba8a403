<script setup lang="ts">
/** One run: under way or over. */
const route = useRoute()
const { store, isOpen } = useOpenRun()
useHead({ title: () => `Run ${route.params.id} · Vornak` })
</script>

<template>
  <div class="page">
    <ProblemNote v-if="store.problem" :problem="store.problem" class="trouble" />
    <ResultScreen v-if="isOpen && store.view && store.ended" />
    <RunScreen v-else-if="isOpen && store.view" />
    <p v-else-if="!store.problem" class="q wait">Reading run {{ route.params.id }}…</p>
  </div>
</template>

<style scoped>
.page {
  height: 100%;
  min-height: 0;
  position: relative;
}
.trouble {
  width: auto;
  margin: 8px 12px;
}
.wait {
  padding: 14px;
}
</style>
