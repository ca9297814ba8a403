<script setup lang="ts">
/** A command journey: the kit, what it needs, what is run, what it writes, what is brought back. */
import type { UploadedFile } from '~~/api/views'
import type { CommandJourney } from '~~/core/journey/journey'

const store = useJourney()
// It is drawn for such a journey alone.
const journey = computed(() => store.journey as CommandJourney)
const edit = (change: (j: CommandJourney) => void) => {
  store.edit((j) => {
    if (j.kind === 'command') change(j)
  })
  return true
}
/** Words as a shell would read them: quotes keep together. */
const words = (text: string) =>
  [...text.matchAll(/"((?:[^"\\]|\\.)*)"|'([^']*)'|(\S+)/g)].map(
    ([, double, single, bare]) => double?.replace(/\\(.)/g, '$1') ?? single ?? bare ?? '',
  )
const line = (args: readonly string[]) =>
  args.map(a => (/^[\w./:=@%+-]+$/.test(a) ? a : `"${a.replace(/(["\\])/g, '\\$1')}"`)).join(' ')
const lines = (text: string) =>
  text
    .split('\n')
    .map(l => l.trim())
    .filter(Boolean)
const kit = ref('')
const problemsAt = (at: string) => store.problems.filter(p => p.at === at)
function uploaded(file: UploadedFile): void {
  kit.value = file.name
  edit((j) => {
    j.kit = file.id
  })
}
</script>

<template>
  <div class="command">
    <p class="q">
      For load that is not HTTP steps: this program runs on every generator, is told its users and ramp, and writes one
      JSON object a line for each sample. docs/command-journeys.md says what exactly; examples/ ships a small one.
    </p>
    <p
      v-for="p in problemsAt('kit')"
      :key="p.sentence"
      class="s12"
      :class="p.weight === 'inTheWay' ? 'brick' : 'plantx'"
    >
      <AGlyph :name="p.weight" :word="p.weight" /> {{ p.sentence }} {{ p.remedy }}
    </p>
    <div class="grid">
      <div>
        <h2>Kit</h2>
        <p class="s12">
          <span v-if="journey.kit" class="mono">{{ kit || 'an archive' }}, SHA-256 {{ journey.kit.slice(0, 16) }}…</span><span v-else class="q">no archive yet</span>
        </p>
        <FilePick
          label="A tar archive, plain or gzipped"
          accept=".tar,.tgz,.gz"
          @sent="uploaded"
          @failed="
            p => {
              store.problem = p
            }
          "
        />
      </div>
      <UFormField label="Needs, a program with its version argument a line">
        <UTextarea
          class="font-mono"
          :rows="3"
          :model-value="journey.runtimes.map(r => line([r.program, ...r.arguments])).join('\n')"
          placeholder="node --version"
          @change="
            edit(j => {
              j.runtimes = lines(($event.target as HTMLTextAreaElement).value)
                .map(words)
                .map(([program, ...a]) => ({ program: program!, arguments: a }))
            })
          "
        />
      </UFormField>
      <UFormField label="Prepare, once after unpacking">
        <DraftInput
          class="font-mono"
          :value="line(journey.prepare ?? [])"
          :accept="
            text =>
              edit(j => {
                j.prepare = words(text)
              })
          "
        />
      </UFormField>
      <UFormField label="Run">
        <DraftInput
          class="font-mono"
          :value="line(journey.run)"
          :accept="
            text =>
              edit(j => {
                j.run = words(text)
              })
          "
          placeholder="node load.mjs"
        />
      </UFormField>
      <UFormField label="Steps it writes samples for, one a line">
        <UTextarea
          :rows="4"
          :model-value="journey.steps.join('\n')"
          @change="
            edit(j => {
              j.steps = lines(($event.target as HTMLTextAreaElement).value)
            })
          "
        />
      </UFormField>
      <UFormField label="Files to bring back, one a line">
        <UTextarea
          class="font-mono"
          :rows="4"
          :model-value="journey.bringBack.join('\n')"
          @change="
            edit(j => {
              j.bringBack = lines(($event.target as HTMLTextAreaElement).value)
            })
          "
        />
      </UFormField>
    </div>
    <p v-for="p in problemsAt('run')" :key="p.sentence" class="brick s12">{{ p.sentence }} {{ p.remedy }}</p>
  </div>
</template>

<style scoped>
.command {
  display: grid;
  gap: 8px;
  align-content: start;
  padding: 4px 2px;
}
.grid {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px 16px;
}
</style>
