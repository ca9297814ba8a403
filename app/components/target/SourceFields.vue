<script setup lang="ts">
/** What a source is and where it is: by its kind, the address of a page, a command on a host, or nothing at all. */
import { SOURCE_KIND_WORDS, SOURCE_KINDS, type Source, type SourceKind } from '~~/core/target/source'
import { defined } from '~~/core/values/defined'
import { takeNumber } from '~/format/numbers'

const { source } = defineProps<{ source: Source }>()
const emit = defineEmits<{ change: [source: Source] }>()
/** What is undefined is left out. */
function put(change: { [K in keyof Source]?: Source[K] | undefined }): void {
  // What it had is what it has, with one changed.
  emit('change', defined({ ...source, ...change }) as Source)
}
const putText = (field: 'authorization' | 'stamp' | 'command', text: string) => put({ [field]: text.trim() || undefined })
const isPage = (kind: SourceKind) => kind !== 'command' && kind !== 'sent'
/** What belongs to another kind goes with it. */
function setKind(kind: SourceKind): void {
  const { name, everyS, series, authorization } = source
  const staysPage = isPage(kind) && isPage(source.kind)
  const address = staysPage ? source.address : ''
  emit('change', { name, kind, address, everyS, ...(staysPage && authorization ? { authorization } : {}), series })
}
const MOST_EVERY_S = 300
const setEvery = (text: string) =>
  takeNumber(text.replace(/s$/, ''), { min: 1, max: MOST_EVERY_S, whole: true }, everyS => put({ everyS }))

const { found: hosts } = useNewestAnswer(
  () => source.kind === 'command',
  async isCommand => (isCommand ? await api('hosts') : undefined),
)
const hostItems = computed(() =>
  (hosts.value?.sites ?? []).flatMap(s => s.hosts.map(h => ({ value: h.ref, label: `${h.name} (${s.site.name})` }))))
const TAKEN = [
  { value: 'lines', label: 'lines “name value”' },
  { value: 'pattern', label: 'patterns' },
] as const
const RUNS = [
  { value: 'anew', label: 'anew each time' },
  { value: 'on', label: 'once, and runs on' },
] as const
</script>

<template>
  <UFormField label="Name"><UInput :model-value="source.name" maxlength="40" @update:model-value="put({ name: String($event) })" /></UFormField>
  <UFormField label="What it is">
    <PickOne
      :model-value="source.kind"
      :items="SOURCE_KINDS.map(k => ({ value: k, label: SOURCE_KIND_WORDS[k] }))"
      @update:model-value="setKind($event as SourceKind)"
    />
  </UFormField>
  <template v-if="isPage(source.kind)">
    <UFormField label="Address" class="wide">
      <UInput
        class="font-mono"
        spellcheck="false"
        :model-value="source.address"
        @update:model-value="put({ address: String($event).trim() })"
      />
    </UFormField>
    <UFormField label="Authorization">
      <UInput
        class="font-mono"
        spellcheck="false"
        placeholder="Bearer {{target.NAME}}"
        :model-value="source.authorization ?? ''"
        @update:model-value="putText('authorization', String($event))"
      />
    </UFormField>
  </template>
  <UFormField v-if="source.kind === 'json'" label="Its moment" hint="JSONPath">
    <UInput
      class="font-mono"
      spellcheck="false"
      placeholder="when it is read"
      :model-value="source.stamp ?? ''"
      @update:model-value="putText('stamp', String($event))"
    />
  </UFormField>
  <template v-if="source.kind === 'command'">
    <UFormField label="On">
      <PickOne
        :model-value="source.address"
        :items="hostItems"
        placeholder="a private host"
        @update:model-value="put({ address: String($event) })"
      />
    </UFormField>
    <UFormField label="Command" class="wide">
      <UInput
        class="font-mono"
        spellcheck="false"
        placeholder="ss -tan"
        :model-value="source.command ?? ''"
        @update:model-value="put({ command: String($event) || undefined })"
      />
    </UFormField>
    <UFormField label="It runs">
      <PickOne
        :model-value="source.runsOn ? 'on' : 'anew'"
        :items="RUNS"
        @update:model-value="put({ runsOn: $event === 'on' || undefined })"
      />
    </UFormField>
    <UFormField label="It is read by">
      <PickOne
        :model-value="source.byPattern ? 'pattern' : 'lines'"
        :items="TAKEN"
        @update:model-value="put({ byPattern: $event === 'pattern' || undefined })"
      />
    </UFormField>
  </template>
  <UFormField :label="source.kind === 'sent' ? 'Taken each' : 'Read each'">
    <DraftInput class="every" :value="`${source.everyS} s`" :accept="setEvery" inputmode="numeric" />
  </UFormField>
</template>

<style scoped>
.wide {
  flex: 1 1 260px;
}
.every {
  width: 72px;
}
</style>
