<script setup lang="ts">
/** The meter, on every screen: what is out, what it costs, when it ends by itself. */
import { euro } from '~~/core/values/said-figures'
import { duration, runTime } from '~/format/moments'
import { RUN_WORDS, UNDER_LOAD } from '~~/core/run/life'

const live = useLive()
const me = useMe()
const m = computed(() => live.meter)
const underLoad = computed(() => m.value?.run !== undefined && UNDER_LOAD.includes(m.value.run.state))
defineEmits<{ release: [] }>()
</script>

<template>
  <header class="meter" aria-label="Meter">
    <template v-if="m">
      <span v-if="m.machinesOut === 0" class="q">Nothing is out</span>
      <span v-else><b>{{ m.machinesOut }} {{ m.machinesOut === 1 ? 'machine' : 'machines' }} out</b> <span
        v-if="m.machinesWanted > m.machinesOut"
        class="q"
      >of {{ m.machinesWanted }}</span></span>
      <span :class="{ b: m.perHour > 0 }">{{ euro(m.perHour) }}/h</span>
      <span :class="{ brick: m.today > m.budget }">{{ euro(m.today) }} today <span class="q">of {{ euro(m.budget) }}</span></span>
      <NuxtLink
        v-if="m.strays"
        to="/fleet"
        class="brick b stray"
      ><AGlyph name="stray" /> {{ m.strays }} {{ m.strays === 1 ? 'stray' : 'strays' }}</NuxtLink>
      <NuxtLink
        v-if="m.unconfirmed"
        to="/fleet"
        class="brick b stray"
      ><AGlyph name="releaseUnconfirmed" /> {{ m.unconfirmed }} release unconfirmed</NuxtLink>
      <span v-if="m.nextLease">next lease ends <b>{{ m.nextLease.name }}</b> in
        <b>{{ duration(m.nextLease.endsAt - live.controllerNow) }}</b></span>
      <span v-else class="q">no lease open</span>
      <NuxtLink
        v-if="m.run"
        :to="`/runs/${m.run.id}`"
        class="run"
      >Run {{ m.run.id }} <b>{{ RUN_WORDS[m.run.state] }}</b><template v-if="m.run.startAt && underLoad">&nbsp;{{ runTime((live.controllerNow - m.run.startAt) / 1000) }}</template></NuxtLink>
      <span v-for="t in m.troubles" :key="t.word" class="brick b" :title="t.sentence">{{ t.word }}</span>
      <span
        v-for="s in m.silent"
        :key="s.provider"
        class="brick"
        :title="s.sentence"
      >{{ s.provider }} does not answer</span>
    </template>
    <span
      v-if="live.stale"
      class="brick b"
    >No news for {{ duration(live.now - live.heardAt) }}; runs go on without this screen</span>
    <NuxtLink
      v-if="me.isOpen"
      to="/people"
      class="run"
      title="Nobody has to sign in on this computer. Make the first person, and everybody has to."
    >Open to this computer <b>· let people sign in</b></NuxtLink>
    <span v-else-if="me.role === 'viewer'" class="q" title="Changing things takes another role; ask a keeper.">you see, you change nothing</span>
    <span class="spring" />
    <UButton v-if="m && m.machinesOut > 0 && me.may('operator')" size="sm" @click="$emit('release')">
      {{ m.loading > 0 ? `Release… ${m.loading} loading` : 'Release…' }}
    </UButton>
  </header>
</template>

<style scoped>
.meter {
  border-bottom: 1px solid var(--hair);
  display: flex;
  align-items: center;
  padding-right: 8px;
  font-size: 12.5px;
  white-space: nowrap;
  overflow: hidden;
}
.meter > span,
.run,
.stray {
  padding: 0 14px;
  border-right: 1px solid var(--hair);
  height: 20px;
  line-height: 20px;
}
.meter > .spring {
  flex: 1;
  border: 0;
}
.run:hover {
  text-decoration: underline;
}
.b {
  font-weight: 620;
}
</style>
