<script setup lang="ts">
/** What runs are made from, beside each other: journeys, targets, feeds, networks, clients. */
const TABS = [
  ['/journeys', 'Journeys'],
  ['/targets', 'Targets'],
  ['/feeds', 'Feeds'],
  ['/networks', 'Networks'],
  ['/clients', 'Clients'],
] as const
</script>

<template>
  <PlaceTabs :tabs="TABS" label="Library" />
</template>
