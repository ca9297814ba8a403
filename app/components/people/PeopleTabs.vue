<script setup lang="ts">
/** Who comes in, beside each other: oneself, everybody, what they did, and who is told of runs. */
const me = useMe()
const tabs = computed(
  () =>
    [
      ...(me.isOpen ? [] : [['/people/me', me.view?.person?.name ?? 'You'] as const]),
      ...(me.may('keeper') ? [['/people', 'People'] as const, ['/people/trail', 'Trail'] as const] : []),
      ...(me.may('operator') ? [['/people/sending', 'Mail and hooks'] as const] : []),
    ] as const,
)
</script>

<template>
  <PlaceTabs :tabs="tabs" label="People" />
</template>
