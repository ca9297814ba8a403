<script setup lang="ts">
/**
 * What belongs to machines, beside each other: those that are out, their roll call, what they carry, where they come
 * from, what they cost.
 */
const TABS = [
  ['/fleet', 'Fleet'],
  ['/fleet/roll-call', 'Roll call'],
  ['/fleet/hosts', 'Private hosts'],
  ['/fleet/capacity', 'Capacity'],
  ['/fleet/ways', 'Accounts and invitations'],
  ['/fleet/costs', 'Costs'],
] as const
</script>

<template>
  <PlaceTabs :tabs="TABS" label="Fleet" />
</template>
