<script setup lang="ts">
/** Links by which somebody without an account sees this, and nothing else: made, copied, taken back. */
import type { SharedThing } from '~~/core/report/shared'
import type { SharedLinkLine } from '~~/api/views'
import { ago, dayTime } from '~/format/moments'

const open = defineModel<boolean>('open', { required: true })
const { thing } = defineProps<{ thing: Pick<SharedThing, 'kind' | 'runs' | 'users' | 'metric'> }>()
const live = useLive()
const copy = useCopy()
const { problem, guarded } = useGuarded()
const links = ref<SharedLinkLine[]>()
const draft = reactive({ days: 14, showsMachines: false, showsExchanges: false })
const made = ref<string>()
const DAYS = [1, 7, 14, 30, 90, 365].map(n => ({ value: n, label: n === 1 ? 'a day' : `${n} days` }))
const OPENS = { run: 'the run as it stands, then its report', report: 'its report', comparison: 'these runs beside each other' }

async function load(): Promise<void> {
  const all = await api('sharedLinks')
  links.value = all.filter(l => l.opens.kind === thing.kind && l.opens.runs.join() === thing.runs.join())
}
watch(open, (is) => {
  made.value = undefined
  if (is) void guarded(load)
}, { immediate: true })
const make = () => guarded(async () => {
  const { days, ...shows } = draft
  const { secret } = await api('share', {}, { opens: { ...thing, ...shows }, days })
  made.value = `${location.origin}/shared#${secret}`
  await load()
})
const takeBack = (link: number) => guarded(async () => {
  await api('endLink', { link })
  await load()
})
const isOpen = (l: SharedLinkLine) => l.endedAt === undefined && l.endsAt > live.controllerNow
function standing(l: SharedLinkLine): string {
  if (l.endedAt !== undefined) return `taken back ${dayTime(l.endedAt, live.controllerNow)}`
  return `${isOpen(l) ? 'until' : 'ended'} ${dayTime(l.endsAt, live.controllerNow)}`
}
const opened = ({ opened: n, openedAt }: SharedLinkLine) =>
  n === 0 ? 'not opened yet' : `opened ${n === 1 ? 'once' : `${n} times`}, last ${ago(openedAt ?? 0, live.controllerNow)}`
</script>

<template>
  <UModal
    v-model:open="open"
    title="Share by a link"
    :description="`Anyone who has it sees ${OPENS[thing.kind]}, and nothing else, without signing in.`"
  >
    <template #body>
      <FaultForm id="share" :problem="problem" class="dialog-form" @submit="make">
        <UFormField label="It ends after">
          <PickOne v-model="draft.days" aria-label="It ends after" :items="DAYS" />
        </UFormField>
        <UCheckbox v-model="draft.showsMachines" label="Names and addresses of machines are shown" />
        <UCheckbox
          v-if="thing.kind !== 'comparison'"
          v-model="draft.showsExchanges"
          label="Exchanges that were kept can be had (secrets are masked in them)"
        />
        <p v-if="made" class="made" role="status">
          <b class="font-mono">{{ made }}</b>
          <UButton size="sm" variant="link" @click="copy(made, 'the link')">Copy</UButton>
          <span class="q">It is shown this once.</span>
        </p>
        <ul v-if="links?.length" class="links" aria-label="Links that were made">
          <li v-for="l in links" :key="l.id" :class="{ q: !isOpen(l) }">
            <span>Link {{ l.id }} of {{ l.madeBy }}, {{ standing(l) }}; {{ opened(l) }}</span>
            <UButton v-if="isOpen(l)" size="xs" variant="link" :aria-label="`Take link ${l.id} back`" @click="takeBack(l.id)">
              Take it back
            </UButton>
          </li>
        </ul>
      </FaultForm>
    </template>
    <template #footer>
      <UButton @click="open = false">Close</UButton>
      <UButton v-needs="'operator'" type="submit" form="share" variant="solid">Make a link</UButton>
    </template>
  </UModal>
</template>

<style scoped>
.made b {
  overflow-wrap: anywhere;
}
.links li {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  padding: 2px 0;
  border-top: 1px solid var(--hair);
}
</style>
