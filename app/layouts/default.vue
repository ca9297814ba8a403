<script setup lang="ts">
/** The frame around every screen: rail, meter, and the screen itself. */
import { useNetwork } from '@vueuse/core'

const live = useLive()
const releasing = useOpenInAddress('open', 'release')
const helping = useOpenInAddress('open', 'keys')
const fromAddresses = useOpenInAddress('open', 'addresses')
const finding = ref(false)
const leaving = useLeavingQuestion()
listenForKeys()
keepBackInOrder()
useActs([
  {
    key: '?',
    says: 'Keys, and how it looks',
    act: () => {
      helping.value = true
    },
  },
  {
    key: 'i',
    says: 'From addresses to a first answer',
    act: () => {
      fromAddresses.value = true
    },
  },
  {
    key: 'Ctrl+K',
    says: 'Find anything, do anything',
    act: () => {
      finding.value = true
    },
  },
])
const screen = useTemplateRef('screen')
const toScreen = () => screen.value?.focus()
/**
 * Screens one is likely to go to next; fetched once the first stands still and there is nothing else to do, but not for
 * a browser that is to save data.
 */
const NEXT = ['/plans', '/plans/any', '/runs', '/runs/1', '/journeys', '/fleet']
const NEXT_AFTER_MS = 3000
const { saveData } = useNetwork()
const fetchNext = () => NEXT.forEach(path => void preloadRouteComponents(path))
onMounted(() => {
  live.begin()
  if (!saveData.value) setTimeout(() => requestIdleCallback(fetchNext), NEXT_AFTER_MS)
})
</script>

<template>
  <div class="frame">
    <a class="skip" href="#screen" @click.prevent="toScreen">To the screen itself</a>
    <TheRail @help="helping = true" @find="finding = true" />
    <TheMeter @release="releasing = true" />
    <main id="screen" ref="screen" tabindex="-1"><slot /></main>
    <LazyReleaseDialog v-if="releasing" v-model="releasing" />
    <LazyFromAddresses v-if="fromAddresses" v-model="fromAddresses" />
    <LazyKeyHelp v-if="helping" v-model="helping" />
    <LazyCommandPalette v-if="finding" v-model="finding" />
    <LazyLeaveDialog v-if="leaving" />
  </div>
</template>

<style scoped>
.frame {
  display: grid;
  grid-template-columns: 56px minmax(0, 1fr);
  grid-template-rows: 36px minmax(0, 1fr);
  height: 100vh;
}
.frame > :nth-child(2) {
  grid-row: 1 / 3;
}
.skip {
  position: absolute;
  z-index: 60;
  left: 8px;
  top: -60px;
  padding: 6px 12px;
  background: var(--paper);
  border: 1px solid var(--edge);
  border-radius: 4px;
}
.skip:focus {
  top: 4px;
}
main:focus {
  outline: none;
}
main {
  min-height: 0;
  min-width: 0;
}
</style>
