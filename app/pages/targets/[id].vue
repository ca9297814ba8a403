<script setup lang="ts">
/** One target: where it is, values and secrets for texts, and its owner's approval. */
import { TIMING_NAME } from '~~/core/journey/server-timing'
import type { Pair } from '~~/core/journey/journey'
import { ENVIRONMENTS, proposedApproval, type Target } from '~~/core/journey/target'
import type { TargetPrices } from '~~/core/target/cost'
import { defined } from '~~/core/values/defined'
import { takeNumber } from '~/format/numbers'
import { present } from '~~/core/values/present'

const route = useRoute()
const target = ref<Target>()
/** It, in what can be done only once it is there. */
const it = () => present(target.value, 'the target that is changed')
const saved = ref('')
const secrets = ref<Record<string, string>>({})
const { problem, reading } = useGuarded()
const toast = useToast()
const newName = ref('')
const newValue = ref('')

void reading(async () => {
  const found = (await api('targets')).find(t => t.id === route.params.id)
  if (!found)
    throw new ApiError({
      code: 'not-found',
      sentence: `There is no target ${String(route.params.id)}.`,
      remedy: 'Go back to the list and choose another.',
    })
  target.value = found
  saved.value = JSON.stringify(found)
})
const changed = computed(
  () =>
    target.value !== undefined &&
    (JSON.stringify(target.value) !== saved.value || Object.keys(secrets.value).length > 0),
)
const insideFault = computed(() =>
  new RegExp(TIMING_NAME).test(target.value?.insideName ?? '')
    ? undefined
    : 'The name of one metric, as it stands in the header: letters and digits, without blanks.',
)
// An entry is a pair.
const pairs = (record: Record<string, string> | undefined) => Object.entries(record ?? {}) as Pair[]
const record = (list: Pair[]) => Object.fromEntries(list)
const PRICES = [
  ['perReplicaHour', 'A replica-hour costs'],
  ['perCall', 'A call costs'],
  ['perGbSecond', 'A GB·s of memory'],
] as const
function setPrice(field: keyof TargetPrices, text: string): true | string {
  const put = (price: number | undefined) => {
    // What it had is what it has, with one changed.
    const next = defined({ ...it().prices, [field]: price }) as TargetPrices
    if (Object.keys(next).length > 0) it().prices = next
    else delete it().prices
  }
  if (text.trim() !== '') return takeNumber(text, { min: 0 }, put)
  put(undefined)
  return true
}
const sources = computed({
  get: () => target.value?.sources ?? [],
  set: (list) => {
    if (list.length > 0) it().sources = list
    else delete it().sources
  },
})
const approved = computed(() => target.value?.approval)
function approve(): void {
  it().approval = proposedApproval(it(), Date.now())
}
function addSecret(): void {
  if (!/^[A-Za-z_][\w-]*$/.test(newName.value) || newValue.value === '') return
  secrets.value = { ...secrets.value, [newName.value]: newValue.value }
  it().secretNames = [...new Set([...(it().secretNames ?? []), newName.value])].sort()
  newName.value = newValue.value = ''
}
/** Its name is there already; its value is what is wanted. */
function giveAgain(name: string): void {
  newName.value = name
  document.querySelector<HTMLInputElement>('[aria-label="Value of the secret"]')?.focus()
}
function dropSecret(name: string): void {
  it().secretNames = (it().secretNames ?? []).filter(n => n !== name)
  const { [name]: _, ...rest } = secrets.value
  secrets.value = rest
}
let removed = false
async function save(): Promise<boolean> {
  try {
    target.value = await api(
      'saveTarget',
      { target: it().id },
      { target: it(), secrets: secrets.value },
    )
    saved.value = JSON.stringify(target.value)
    secrets.value = {}
    problem.value = undefined
    toast.add({ title: `${target.value.name} is saved.` })
    return true
  }
  catch (error) {
    problem.value = problemOf(error)
    return false
  }
}
const removal = useRemoval(() => goTo('/targets'), () => goTo(`/targets/${it().id}`))
async function remove(): Promise<void> {
  const { id, name } = it()
  try {
    await api('removeTarget', { target: id })
    removed = true
    await removal('target', id, name)
  }
  catch (error) {
    problem.value = problemOf(error)
  }
}
useActs([{ key: 'Ctrl+S', needs: 'operator', says: 'Save', act: () => save() }])
useLeaving('the target', () => changed.value && !removed, save, false)
useHead({ title: () => `${target.value?.name ?? 'Target'} · Vornak` })
</script>

<template>
  <div class="screen">
    <div class="screen-head">
      <div class="s12 q">
        <NuxtLink to="/targets" class="crumb">Targets</NuxtLink><span v-if="changed" class="plantx"> · changed, not saved</span>
      </div>
      <h1>{{ target?.name ?? 'Target' }}</h1>
    </div>
    <div class="body">
      <ProblemNote v-if="problem" :problem="problem" class="gap" />
      <div v-if="target" class="two">
        <section class="panel pad">
          <h2>Where it is</h2>
          <div class="grid">
            <UFormField label="Name"><UInput v-model="target.name" maxlength="80" /></UFormField>
            <UFormField label="Environment">
              <PickOne v-model="target.environment" :items="ENVIRONMENTS.map(e => ({ value: e, label: e }))" />
            </UFormField>
            <UFormField class="full" label="Base address">
              <UInput
                v-model="target.baseUrl"
                class="font-mono"
                spellcheck="false"
              />
            </UFormField>
          </div>
          <UFormField
            label="Time inside"
            :error="insideFault"
            help="The name of a metric in its answers’ Server-Timing, if it sends one: what it says it took itself. The rest of each answer’s time is on the way."
          >
            <UInput v-model="target.insideName" class="font-mono" placeholder="none" spellcheck="false" maxlength="80" />
          </UFormField>
          <div class="grid three">
            <UFormField v-for="[field, label] in PRICES" :key="field" :label="label" hint="€">
              <DraftInput
                inputmode="decimal"
                placeholder="not known"
                :value="target.prices?.[field] ?? ''"
                :accept="text => setPrice(field, text)"
              />
            </UFormField>
          </div>
          <p v-if="target.environment === 'production'" class="plantx s12">
            <AGlyph name="costsSoundness" word="note" /> In production it already carries load of its own: agree a
            window with its owner.
          </p>
          <PairRows
            title="Further addresses"
            :pairs="pairs(target.addresses)"
            @change="
              list => {
                target!.addresses = record(list)
              }
            "
          />
          <PairRows
            title="Variables"
            :pairs="pairs(target.variables)"
            @change="
              list => {
                target!.variables = record(list)
              }
            "
          />
          <div class="top">
            <h2>Secrets</h2>
            <span class="q s12">sealed, never shown again, masked in everything that is kept; for these addresses alone</span>
          </div>
          <div v-for="n in target.secretNames ?? []" :key="n" class="row">
            <b class="mono">{{ n }}</b><span class="q">{{ n in secrets ? 'to be saved' : '••••••' }}</span><span><UButton
              v-if="!(n in secrets)"
              size="sm"
              variant="link"
              @click="giveAgain(n)"
            >Give again</UButton><UButton size="sm" variant="link" @click="dropSecret(n)">Remove</UButton></span>
          </div>
          <form class="row" @submit.prevent="addSecret">
            <UInput
              v-model="newName"
              class="font-mono"
              placeholder="name"
              aria-label="Name of the secret"
              spellcheck="false"
            /><UInput
              v-model="newValue"
              class="font-mono"
              type="password"
              placeholder="value"
              aria-label="Value of the secret"
              autocomplete="off"
            /><UButton size="sm" type="submit">Add</UButton>
          </form>
          <p class="q s12">
            Texts name all of these as <span class="mono">{{ '\{\{target.NAME\}\}' }}</span>.
          </p>
          <details class="s12">
            <summary>Certificate authority to trust</summary>
            <UTextarea
              class="font-mono"
              :rows="4"
              :model-value="target.trust ?? ''"
              placeholder="-----BEGIN CERTIFICATE-----"
              aria-label="PEM of the authority"
              @change="target!.trust = ($event.target as HTMLTextAreaElement).value || undefined"
            />
          </details>
        </section>
        <section class="panel pad">
          <div class="top">
            <h2>The owner’s approval</h2>
            <span class="spring" /><UButton v-if="approved" v-needs="'keeper'" size="sm" variant="link" @click="delete target!.approval">
              Take it back
            </UButton>
          </div>
          <p class="q s12">
            A load test is an attack on what has not agreed to it. Only these hosts are sent to: held at every socket,
            after redirects too. Load, end and hours are looked at when a run is to start, which must fit into them whole,
            and every second while it loads.
          </p>
          <template v-if="approved">
            <ApprovalFields v-model="target.approval!" />
          </template>
          <template v-else><p class="brick gap"><AGlyph name="inTheWay" word="in the way" /> Not approved: nothing is sent.</p>
            <UButton v-needs="'keeper'" @click="approve">Record an approval</UButton></template>
        </section>
      </div>
      <SourcesPanel
        v-if="target"
        v-model="sources"
        :target-id="target.id"
        :base-url="target.baseUrl"
        :is-saved="!changed"
      />
      <p v-if="!target && !problem" class="q">Reading the target…</p>
    </div>
    <footer class="sill">
      <span class="spring" /><UButton v-if="target" v-needs="'operator'" @click="remove">Remove</UButton><UButton v-needs="'operator'" variant="solid" :aria-disabled="!changed" @click="save">
        {{ changed ? 'Save' : 'Nothing to save' }} <UKbd>Ctrl S</UKbd>
      </UButton>
    </footer>
  </div>
</template>

<style scoped>
.gap {
  margin: 8px 0;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
  align-items: start;
}
.pad {
  padding: 8px 14px 12px;
  display: grid;
  gap: 6px;
}
.grid {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px 10px;
}
.three {
  grid-template-columns: 1fr 1fr 1fr;
}
.full {
  grid-column: 1 / 3;
}
.top {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 24px;
}
.spring {
  flex: 1;
}
.row {
  display: grid;
  grid-template-columns: minmax(0, 2fr) minmax(0, 3fr) max-content;
  gap: 6px;
  align-items: center;
}
@media (max-width: 1100px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>
