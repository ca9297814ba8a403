<script setup lang="ts">
/** Hosts of a site: what differs from the template, typed or pasted, and how each came through being tried. */
import { STEP_WORDS, TRY_STEPS, type Host } from '~~/core/fleet/site'
import { clockTime } from '~/format/moments'

const store = useHosts()
const hosts = computed(() => store.draft!.hosts)
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
const inherited = (field: Field) =>
  field === 'port'
    ? String(store.draft!.template.port)
    : field === 'user'
      ? store.draft!.template.user
      : field === 'folder'
        ? store.draft!.template.folder
        : field === 'key'
          ? store.draft!.template.signIn.kind === 'key'
            ? store.draft!.template.signIn.key
            : 'agent'
          : field === 'cores'
            ? 'all'
            : ''

function set(host: Host, field: Field, text: string): boolean {
  const value = text.trim()
  if (field === 'name' || field === 'address') {
    if (value === '') return false
    host[field] = value
  }
  else if (value === '') Reflect.deleteProperty(host, field)
  else if (field === 'port' || field === 'cores') {
    if (!(Number(value) > 0)) return false
    host[field] = Number(value)
  }
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
function reserve(host: Host, text: string): boolean {
  const value = text.trim()
  if (value === '') {
    Reflect.deleteProperty(host, 'reservedBy')
    Reflect.deleteProperty(host, 'reservedUntil')
    return true
  }
  const [, by, until] = /^(.*?)(?:\s+until\s+(.+))?$/.exec(value)!
  const time =
    until && /^\d{1,2}:\d{2}$/.test(until)
      ? todayAt(until)
      : until
        ? new Date(/\d{4}/.test(until) ? until : `${until} ${new Date().getFullYear()}`)
        : undefined
  if (!by || (time && Number.isNaN(time.getTime()))) return false
  host.reservedBy = by
  if (time) host.reservedUntil = time.toISOString()
  else Reflect.deleteProperty(host, 'reservedUntil')
  return true
}
function todayAt(clock: string): Date {
  const [h, m] = clock.split(':').map(Number)
  const at = new Date()
  at.setHours(h!, m!, 0, 0)
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
const refOf = (h: Host) => `${store.draft!.id}/${h.name}`
const tried = (h: Host) => store.lines.get(h.name)?.tried
const failed = (h: Host) => tried(h)?.steps.find(s => !s.ok)
const stepOf = (h: Host, step: string) => tried(h)?.steps.find(s => s.step === step)
</script>

<template>
  <div class="scroll" @paste="pasted">
    <table class="table hosts">
      <thead>
        <tr>
          <th />
          <th v-for="f in FIELDS" :key="f">{{ f }}</th>
          <th>reserved</th>
          <th v-for="s in TRY_STEPS" :key="s" class="step">{{ STEP_WORDS[s] }}</th>
          <th />
        </tr>
      </thead>
      <tbody>
        <template v-for="(h, i) in hosts" :key="h.name + i">
          <tr>
            <td><input v-model="chosen" type="checkbox" :value="h.name" :aria-label="`Choose ${h.name}`"></td>
            <td v-for="f in FIELDS" :key="f">
              <DraftInput
                class="cell"
                :style="{ width: WIDTHS[f] }"
                :value="h[f] ?? ''"
                :placeholder="inherited(f)"
                :aria-label="`${f} of ${h.name}`"
                :accept="text => set(h, f, text)"
              />
            </td>
            <td>
              <DraftInput
                class="cell"
                style="width: 196px"
                placeholder="by until"
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
              <button class="btn sm" :aria-disabled="store.trying.has(refOf(h))" @click="store.tryHosts([h.name])">
                Try
              </button> <button class="btn link sm" :aria-label="`Take ${h.name} from the table`" @click="hosts.splice(i, 1)">
                Remove
              </button>
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
              <button v-if="failed(h)!.step === 'hostKey'" class="btn sm broken" @click="store.acceptKey(h.name)">
                Accept the new key
              </button>
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
  overflow-x: auto;
}
.hosts td {
  padding: 2px 4px 2px 0;
  white-space: nowrap;
  vertical-align: middle;
}
.hosts th {
  padding-right: 6px;
}
.hosts input[type='checkbox'] {
  vertical-align: middle;
}
.cell {
  height: 24px;
  border: 1px solid transparent;
  border-radius: 3px;
  background: none;
  padding: 0 4px;
  font-size: 12.5px;
}
.cell:hover {
  border-color: var(--hair);
}
.cell:focus {
  border-color: var(--edge);
  background: var(--panel);
}
.cell::placeholder {
  color: var(--quiet);
  opacity: 0.75;
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
