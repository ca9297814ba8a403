<script setup lang="ts">
/** Why the run is the evidence it is. */
import type { Finding, Soundness } from '~~/core/soundness/verdict'

const { findings, soundness, accountOf } = defineProps<{
  findings: Finding[]
  soundness: Soundness
  /** Number of the run whose target counted, too: its account is a line of its own. */
  accountOf?: number
}>()
const { all: account } = useThreeWay(() => accountOf)
const ACCOUNT_GLYPHS = { balanced: 'held', explained: 'held', coming: 'toKnow', open: 'costsSoundness' } as const
const ACCOUNT_TONES = { balanced: 'moss', explained: 'moss', coming: 'q', open: 'plantx' } as const
const order = { voids: 0, qualifies: 1, note: 2 } as const
const sorted = computed(() => [...findings].sort((a, b) => order[a.weight] - order[b.weight]))
const glyph = { voids: 'inTheWay', qualifies: 'costsSoundness', note: 'toKnow' } as const
const tone = { voids: 'brick', qualifies: 'plantx', note: 'q' } as const
</script>

<template>
  <section>
    <div class="top">
      <h2>Soundness</h2>
      <b :class="{ brick: soundness === 'unsound', plantx: soundness === 'qualified', moss: soundness === 'sound' }">{{
        soundness
      }}</b>
    </div>
    <ul>
      <li v-for="f in sorted" :key="f.code + f.sentence">
        <AGlyph :name="glyph[f.weight]" :class="tone[f.weight]" :word="f.weight" /><span><b>{{ f.sentence }}</b> <span class="q">{{ f.remedy }}</span></span>
      </li>
      <li v-if="account">
        <AGlyph
          :name="ACCOUNT_GLYPHS[account.state]"
          :class="ACCOUNT_TONES[account.state]"
          :word="account.state"
        /><span><b>{{ account.sentence }}</b> <span class="q">Step by step under Target.</span></span>
      </li>
      <li v-if="!findings.length" class="q">Nothing speaks against this run as evidence.</li>
    </ul>
  </section>
</template>

<style scoped>
.top {
  display: flex;
  gap: 10px;
  align-items: center;
  height: 26px;
}
li {
  display: flex;
  gap: 8px;
  align-items: baseline;
  padding: 4px 0;
  border-top: 1px solid var(--hair);
  font-size: 12.5px;
}
</style>
