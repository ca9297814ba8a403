<script setup lang="ts">
/** Screens of one place beside each other, each with an address of its own. */
const { tabs, label } = defineProps<{ tabs: readonly (readonly [to: string, word: string])[], label: string }>()
const route = useRoute()
/** The longest address that fits is where one is. */
const here = computed(
  () =>
    tabs
      .map(([to]) => to)
      .filter(to => route.path === to || route.path.startsWith(`${to}/`))
      .sort((a, b) => b.length - a.length)[0],
)
</script>

<template>
  <nav class="tabs" :aria-label="label">
    <!-- Where one is, is what the screen is called. -->
    <component
      :is="to === here ? 'h1' : 'span'"
      v-for="[to, word] in tabs"
      :key="to"
    ><NuxtLink :to="to" :class="{ here: to === here }" :aria-current="to === here ? 'page' : undefined">{{
      word
    }}</NuxtLink></component>
  </nav>
</template>

<style scoped>
.tabs {
  display: flex;
  gap: 18px;
  align-items: baseline;
}
.tabs a {
  font-weight: 600;
  font-size: 18px;
  line-height: 22px;
  font-stretch: 104%;
  color: var(--quiet);
}
.tabs a:hover {
  color: var(--ink);
}
.tabs .here {
  color: var(--ink);
  border-bottom: 2px solid var(--ink);
}
</style>
