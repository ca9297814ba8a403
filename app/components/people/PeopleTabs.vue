<script setup lang="ts">
/** Who comes in, beside each other: oneself, everybody, and what they did. */
const me = useMe()
const tabs = computed(
  () =>
    [
      ...(me.isOpen ? [] : [['/people/me', me.view?.person?.name ?? 'You'] as const]),
      ...(me.may('keeper') ? [['/people', 'People'] as const, ['/people/trail', 'Trail'] as const] : []),
    ] as const,
)
</script>

<template>
  <PlaceTabs :tabs="tabs" label="People" />
</template>
