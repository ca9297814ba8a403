<script setup lang="ts">
/** One glyph of the identity, with its word for those who do not see it. */
import { GLYPHS, type GlyphName } from './glyphs'
import { MACHINE_WORDS, type MachineState } from '~~/core/run/machine-life'

const { name, size = 12, word } = defineProps<{ name: GlyphName, size?: number, word?: string }>()
// As was asked just before.
const said = computed(() => word ?? (name in MACHINE_WORDS ? MACHINE_WORDS[name as MachineState] : name))
</script>

<template>
  <svg
    :width="size"
    :height="size"
    viewBox="0 0 12 12"
    :role="said ? 'img' : undefined"
    :aria-label="said || undefined"
    :aria-hidden="said ? undefined : true"
    class="glyph"
    v-html="GLYPHS[name]"
  />
</template>

<style scoped>
.glyph {
  flex: none;
  display: inline-block;
  vertical-align: -1px;
}
</style>
