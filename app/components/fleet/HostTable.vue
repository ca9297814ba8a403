<script setup lang="ts">
/**
 * Hosts of a site: what differs from the template, typed or pasted, and how each came through being tried. A table of
 * our own: each cell is edited where it stands, and what is wrong with a row is told below it, across all of them.
 */
import { takeNumber } from '~/format/numbers'
import { STEP_WORDS, TRY_STEPS, type Host } from '~~/core/fleet/site'
import { clockTime } from '~/format/moments'
import { present } from '~~/core/values/present'

const store = useHosts()
/** The site whose hosts these are. */
const site = () => present(store.draft, 'the site that is open')
const hosts = computed(() => site().hosts)
/** Names of those that are ticked. */
const chosen = defineModel<string[]>('chosen', { required: true })
const FIELDS = ['name', 'address', 'port', 'user', 'key', 'folder', 'cores'] as const
type Field = (typeof FIELDS)[number]
const WIDTHS: Record<Field, string> = {
  name: '84px',
  address: '112px',
  port: '50px',
  user: '68px',
  key: '84px',
  folder: '66px',
  cores: '40px',
}
/** What stands in a field that says nothing of its own. */
function inherited(field: Field): string {
  const { port, user, folder, signIn } = site().template
  const key = signIn.kind === 'key' ? signIn.key : 'agent'
  const of: Partial<Record<Field, string>> = { port: String(port), user, folder, key, cores: 'all' }
  return of[field] ?? ''
}

function set(host: Host, field: Field, text: string): true | string {
  const value = text.trim()
  if (field === 'name' || field === 'address') {
    if (value === '') return `A host needs ${field === 'name' ? 'a name' : 'an address'}.`
    host[field] = value
  }
  else if (value === '') Reflect.deleteProperty(host, field)
  else if (field === 'port' || field === 'cores')
    return takeNumber(value, { min: 1, max: field === 'port' ? 65_535 : 1024, whole: true }, (n) => {
      host[field] = n
    })
  else host[field] = value
  return true
}

/** A pasted block of several cells is a table, wherever it lands. */
function pasted(event: ClipboardEvent): void {
  const text = event.clipboardData?.getData('text/plain') ?? ''
  if (!/[\t\n,;]/.test(text.trim())) return
  event.preventDefault()
  void store.paste(text)
}

/** `by whom until when` */
function reserve(host: Host, text: string): true | string {
  const value = text.trim()
  if (value === '') {
    Reflect.deleteProperty(host, 'reservedBy')
    Reflect.deleteProperty(host, 'reservedUntil')
    return true
  }
  // The pattern takes any text.
  const [, by, until] = /^(.*?)(?:\s+until\s+(.+))?$/.exec(value)!
  const time =
    until && /^\d{1,2}:\d{2}$/.test(until)
      ? todayAt(until)
      : until
        ? new Date(/\d{4}/.test(until) ? until : `${until} ${new Date().getFullYear()}`)
        : undefined
  if (!by) return 'Write who has it first, then until when: “Ana until 18:00”.'
  if (time && Number.isNaN(time.getTime())) return `“${until}” is no moment: write 18:00, or 26 Nov 18:00.`
  host.reservedBy = by
  if (time) host.reservedUntil = time.toISOString()
  else Reflect.deleteProperty(host, 'reservedUntil')
  return true
}
function todayAt(clock: string): Date {
  const [h = 0, m = 0] = clock.split(':').map(Number)
  const at = new Date()
  at.setHours(h, m, 0, 0)
  return at
}
const day = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short' })
/** `18:00` today, `26 Nov 18:00` another day: as it can be typed. */
function untilOf(at: number): string {
  const time = clockTime(at).slice(0, 5)
  return new Date(at).toDateString() === new Date().toDateString() ? time : `${day.format(at)} ${time}`
}
const reserved = (h: Host) =>
  h.reservedBy ? `${h.reservedBy}${h.reservedUntil ? ` until ${untilOf(Date.parse(h.reservedUntil))}` : ''}` : ''
function choose(name: string, is: boolean): void {
  chosen.value = is ? [...chosen.value, name] : chosen.value.filter(n => n !== name)
}
const refOf = (h: Host) => `${site().id}/${h.name}`
const tried = (h: Host) => store.lines.get(h.name)?.tried
const otherKey = (h: Host) => store.lines.get(h.name)?.otherKey
const failed = (h: Host) => tried(h)?.steps.find(s => !s.ok)
const stepOf = (h: Host, step: string) => tried(h)?.steps.find(s => s.step === step)
</script>

<template>
  <div class="scroll" @paste="pasted">
    <table class="table hosts">
      <thead>
        <tr>
          <th><span class="sr">Choose</span></th>
          <th v-for="f in FIELDS" :key="f">{{ f }}</th>
          <th>reserved</th>
          <th v-for="s in TRY_STEPS" :key="s" class="step">{{ STEP_WORDS[s] }}</th>
          <th><span class="sr">Acts</span></th>
        </tr>
      </thead>
      <tbody>
        <template v-for="(h, i) in hosts" :key="h.name + i">
          <tr>
            <td><UCheckbox
              :model-value="chosen.includes(h.name)"
              :aria-label="`Choose ${h.name}`"
              @update:model-value="choose(h.name, $event === true)"
            /></td>
            <td v-for="f in FIELDS" :key="f">
              <DraftInput
                size="sm"
                variant="ghost"
                :style="{ width: WIDTHS[f] }"
                :value="h[f] ?? ''"
                :placeholder="inherited(f)"
                :aria-label="`${f} of ${h.name}`"
                :accept="text => set(h, f, text)"
              />
            </td>
            <td>
              <DraftInput
                size="sm"
                variant="ghost"
                style="width: 196px"
                placeholder="who, until when"
                :value="reserved(h)"
                :aria-label="`Reservation of ${h.name}`"
                :accept="text => reserve(h, text)"
              />
            </td>
            <td v-for="s in TRY_STEPS" :key="s" class="step" :title="stepOf(h, s)?.said">
              <template v-if="store.trying.has(refOf(h))"><span class="q">…</span></template>
              <AGlyph
                v-else-if="stepOf(h, s)"
                :name="stepOf(h, s)!.ok ? 'held' : s === 'idle' ? 'costsSoundness' : 'broken'"
                :class="stepOf(h, s)!.ok ? 'moss' : s === 'idle' ? 'plantx' : 'brick'"
                :word="`${STEP_WORDS[s]}: ${stepOf(h, s)!.said}`"
              />
              <span v-else class="q">–</span>
            </td>
            <td class="acts">
              <UButton size="sm" :aria-disabled="store.trying.has(refOf(h))" @click="store.tryHosts([h.name])">
                Try
              </UButton> <UButton
                size="sm"
                variant="link"
                :aria-label="`Take ${h.name} from the table`"
                @click="hosts.splice(i, 1)"
              >
                Remove
              </UButton>
            </td>
          </tr>
          <tr v-if="failed(h) && !store.trying.has(refOf(h))" class="why">
            <td />
            <td
              :colspan="FIELDS.length + 1 + TRY_STEPS.length"
              :class="failed(h)!.step === 'idle' ? 'plantx' : 'brick'"
            >
              {{ STEP_WORDS[failed(h)!.step] }}: {{ failed(h)!.said }}. <span class="ink">{{ failed(h)!.remedy }}</span>
            </td>
            <td>
              <UButton
                v-if="otherKey(h)"
                size="sm"
                color="error"
                @click="store.acceptKey(h.name, otherKey(h)!)"
              >
                Accept the new key
              </UButton>
            </td>
          </tr>
        </template>
        <tr v-if="hosts.length === 0">
          <td />
          <td :colspan="FIELDS.length + 2 + TRY_STEPS.length" class="q">
            No host yet. Type one, or paste a table here: a row a host; columns name, address, port, user, in this order
            or under their headings. What a row leaves out is the template’s.
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.scroll {
  /* What is only heard lies within it, too. */
  position: relative;
  overflow-x: auto;
}
.hosts td {
  padding: 2px 4px 2px 0;
  white-space: nowrap;
  vertical-align: middle;
}
.hosts td:first-child {
  padding: 2px 8px 2px 5px;
}
.hosts th {
  padding-right: 6px;
}
.step {
  text-align: center;
  font-size: 11px !important;
}
.acts {
  text-align: right;
}
.why td {
  white-space: normal;
  padding-bottom: 6px;
  border-bottom: 1px solid var(--hair);
}
.ink {
  color: var(--ink);
}
</style>
