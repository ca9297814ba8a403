<script setup lang="ts">
/** Names and values, a row each; an empty row at the end takes the next. Several can be pasted, one a line. */
import type { Pair } from '~~/core/journey/journey'
import type { JourneyProblem } from '~~/core/journey/problems'

const { title, pairs, problems = [] } = defineProps<{ title: string, pairs: Pair[], problems?: JourneyProblem[] }>()
const emit = defineEmits<{ change: [pairs: Pair[]] }>()
const open = ref(false)
const shown = computed(() => open.value || pairs.length > 0)

function set(at: number, column: 0 | 1, text: string): boolean {
  const next = pairs.map((p): Pair => [...p])
  if (at === next.length) {
    if (text.trim() === '') return true
    next.push(['', ''])
  }
  next[at]![column] = column === 0 ? text.trim() : text
  emit(
    'change',
    next.filter(([n, v]) => n !== '' || v !== ''),
  )
  return true
}
/** `name: value` or `name=value`, one a line. */
function paste(event: ClipboardEvent): void {
  const lines = (event.clipboardData?.getData('text') ?? '').split(/\r?\n/).filter(l => /[:=\t]/.test(l))
  if (lines.length < 2) return
  event.preventDefault()
  emit('change', [
    ...pairs,
    ...lines.map((l): Pair => {
      const [, name, value] = /^([^:=\t]+)[:=\t]\s*(.*)$/.exec(l) ?? []
      return [(name ?? l).trim(), value ?? '']
    }),
  ])
}
</script>

<template>
  <section class="pairs" @paste="paste">
    <div class="top">
      <h2>{{ title }}</h2>
      <span v-if="!shown" class="q s12">none</span><UButton v-if="!shown" size="sm" variant="link" @click="open = true">Add</UButton>
    </div>
    <template v-if="shown">
      <div v-for="(pair, i) in [...pairs, ['', ''] as Pair]" :key="i" class="row">
        <DraftInput
          class="font-mono"
          :value="pair[0]"
          :accept="text => set(i, 0, text)"
          :placeholder="i === pairs.length ? 'name' : ''"
          :aria-label="`${title}, name ${i + 1}`"
          spellcheck="false"
        />
        <DraftInput
          class="font-mono"
          :value="pair[1]"
          :accept="text => set(i, 1, text)"
          :aria-label="`${title}, value ${i + 1}`"
          spellcheck="false"
        />
        <UButton
          v-if="i < pairs.length"
          size="sm"
          variant="link"
          :aria-label="`Remove ${pair[0]}`"
          @click="
            emit(
              'change',
              pairs.filter((_, n) => n !== i),
            )
          "
        >
          Remove
        </UButton>
      </div>
    </template>
    <p v-for="p in problems" :key="p.sentence" class="brick s12">{{ p.sentence }} {{ p.remedy }}</p>
  </section>
</template>

<style scoped>
.top {
  display: flex;
  gap: 8px;
  align-items: center;
  height: 24px;
}
.row {
  display: grid;
  grid-template-columns: minmax(0, 2fr) minmax(0, 3fr) 60px;
  gap: 4px;
  margin-bottom: 3px;
}
</style>
