<script setup lang="ts">
/** The rail: a live number over a word for each place. */
const live = useLive()
const route = useRoute()
const places = computed(() => {
  const counts = live.meter?.counts
  return [
    { to: '/', word: 'Board', n: counts?.waiting, says: 'runs under way' },
    { to: '/journeys', word: 'Journeys', n: counts?.journeys, says: 'journeys' },
    { to: '/plans', word: 'Plans', n: counts?.plans, says: 'plans' },
    { to: '/fleet', word: 'Fleet', n: live.meter?.machinesOut, says: 'machines out' },
    { to: '/runs', word: 'Runs', n: counts?.runs, says: 'runs' },
  ]
})
const me = useMe()
const who = computed(() => me.view?.person?.name ?? 'People')
const clock = computed(() => new Date(live.controllerNow).toLocaleTimeString('en-GB').slice(0, 5))
/** Targets, feeds, networks and clients are found beside the journeys. */
const here = (to: string) =>
  to === '/'
    ? route.path === '/'
    : route.path.startsWith(to) || (to === '/journeys' && /^\/(targets|feeds|networks|clients)/.test(route.path)) || (to === '/runs' && route.path.startsWith('/reports')) || (to === '/plans' && route.path.startsWith('/trends'))
const colour = useColorMode()
const turn = () => {
  colour.preference = colour.value === 'dark' ? 'light' : 'dark'
}
useActs([
  // There are five.
  ...places.value.map((p, i) => ({ key: String(i + 1) as '1' | '2' | '3' | '4' | '5', says: p.word, act: () => void goTo(p.to) })),
])
useActs([
  { says: 'People who may come in', act: () => void goTo('/people') },
  { says: 'Who did what: the trail', act: () => void goTo('/people/trail') },
  { says: 'Mail and hooks: who is told of runs', act: () => void goTo('/people/sending') },
])
defineEmits<{ help: [], find: [] }>()
</script>

<template>
  <nav class="rail" aria-label="Places">
    <NuxtLink to="/" class="logo" aria-label="Vornak">V</NuxtLink>
    <NuxtLink
      v-for="p in places"
      :key="p.to"
      :to="p.to"
      class="place"
      :class="{ here: here(p.to) }"
      :aria-current="here(p.to) ? 'page' : undefined"
      :title="`${p.n ?? 0} ${p.says}`"
    >
      <i>{{ p.n ?? '–' }}</i>{{ p.word }}
    </NuxtLink>
    <div class="foot">
      {{ clock }}<br>
      <UButton
        size="sm"
        variant="ghost"
        square
        icon="i-lucide-user-round"
        :to="me.isOpen ? '/people' : '/people/me'"
        :aria-label="who"
        :title="who"
      /><br>
      <UButton
        size="sm"
        variant="ghost"
        square
        icon="i-lucide-search"
        aria-label="Find"
        title="Find anything (Ctrl K)"
        @click="$emit('find')"
      /><br>
      <UButton
        size="sm"
        variant="ghost"
        square
        icon="i-lucide-sun-moon"
        aria-label="Light or dark"
        title="Light or dark; as the system: under ?"
        @click="turn"
      /><br>
      <UButton
        size="sm"
        variant="ghost"
        square
        aria-label="Keys"
        title="Keys"
        @click="$emit('help')"
      >
        <UKbd>?</UKbd>
      </UButton>
    </div>
  </nav>
</template>

<style scoped>
.rail {
  border-right: 1px solid var(--hair);
  display: flex;
  flex-direction: column;
  background: var(--bg);
}
.logo {
  height: 36px;
  border-bottom: 1px solid var(--hair);
  display: grid;
  place-items: center;
  font-weight: 760;
  font-size: 15px;
  font-stretch: 125%;
}
.place {
  height: 52px;
  display: flex;
  flex-direction: column;
  align-items: center;
  justify-content: center;
  color: var(--quiet);
  font-size: 11px;
  line-height: 13px;
  font-stretch: 92%;
  position: relative;
}
.place i {
  font-style: normal;
  font-weight: 600;
  font-size: 16px;
  line-height: 20px;
  color: var(--ink);
  font-stretch: 110%;
}
.here {
  background: var(--panel);
  color: var(--ink);
  font-weight: 600;
}
.here::after {
  content: '';
  position: absolute;
  right: -1px;
  top: 0;
  bottom: 0;
  width: 3px;
  background: var(--ink);
}
.foot {
  margin-top: auto;
  padding: 8px 0 10px;
  text-align: center;
  color: var(--quiet);
  font-size: 11px;
}
.help {
  cursor: pointer;
}
</style>
