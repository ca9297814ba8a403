<script setup lang="ts">
/** The head of every fleet screen: where one is, and at its end what can be done there. */
</script>

<template>
  <div class="screen-head head"><FleetTabs /><span class="spring" /><slot /></div>
</template>

<style scoped>
.head {
  display: flex;
  gap: 10px;
  align-items: center;
  min-height: 46px;
}
.spring {
  flex: 1;
}
</style>
