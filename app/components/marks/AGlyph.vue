<script setup lang="ts">
/** One glyph of the identity, with its word for those who do not see it. */
import { GLYPHS, STATE_WORDS, type GlyphName } from './glyphs'

const { name, size = 12, word } = defineProps<{ name: GlyphName, size?: number, word?: string }>()
</script>

<template>
  <svg :width="size" :height="size" viewBox="0 0 12 12" role="img" :aria-label="word ?? STATE_WORDS[name] ?? name" class="glyph" v-html="GLYPHS[name]" />
</template>

<style scoped>
.glyph { flex: none; display: inline-block; vertical-align: -1px; }
</style>
