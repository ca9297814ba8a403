<script setup lang="ts">
/** The frame around every screen: rail, meter, and the screen itself. */
const live = useLive()
const releasing = ref(false)
const helping = ref(false)
listenForKeys()
useKeys([
  {
    key: '?',
    says: 'These keys',
    act: () => {
      helping.value = true
    },
  },
])
onMounted(() => live.begin())
</script>

<template>
  <div class="frame">
    <TheRail @help="helping = true" />
    <TheMeter @release="releasing = true" />
    <main><slot /></main>
    <ReleaseDialog v-model="releasing" />
    <KeyHelp v-model="helping" />
  </div>
</template>

<style scoped>
.frame {
  display: grid;
  grid-template-columns: 56px minmax(0, 1fr);
  grid-template-rows: 36px minmax(0, 1fr);
  height: 100vh;
}
.frame > :first-child {
  grid-row: 1 / 3;
}
main {
  min-height: 0;
  min-width: 0;
}
</style>
