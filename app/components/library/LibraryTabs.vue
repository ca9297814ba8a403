<script setup lang="ts">
/** What runs are made from, beside each other: journeys, targets, feeds, networks. */
const route = useRoute()
const TABS = [['/journeys', 'Journeys'], ['/targets', 'Targets'], ['/feeds', 'Feeds'], ['/networks', 'Networks']] as const
</script>

<template>
  <nav class="tabs" aria-label="Library">
    <NuxtLink v-for="[to, word] in TABS" :key="to" :to="to" :class="{ here: route.path.startsWith(to) }" :aria-current="route.path.startsWith(to) ? 'page' : undefined">{{ word }}</NuxtLink>
  </nav>
</template>

<style scoped>
.tabs { display: flex; gap: 18px; align-items: baseline; }
.tabs a { font-weight: 600; font-size: 18px; line-height: 22px; font-stretch: 104%; color: var(--quiet); }
.tabs a:hover { color: var(--ink); }
.tabs .here { color: var(--ink); border-bottom: 2px solid var(--ink); }
</style>
