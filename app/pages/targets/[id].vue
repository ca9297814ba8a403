<script setup lang="ts">
/** One target: where it is, values and secrets for texts, and its owner's approval. */
import type { ApiProblem } from '~~/api/views'
import type { Pair } from '~~/core/journey/journey'
import type { Target } from '~~/core/journey/target'

const route = useRoute()
const target = ref<Target>()
const saved = ref('')
const secrets = ref<Record<string, string>>({})
const problem = ref<ApiProblem>()
const said = ref('')
const newName = ref('')
const newValue = ref('')

onMounted(async () => {
  try {
    const found = (await api<Target[]>('targets')).find(t => t.id === route.params.id)
    if (!found)
      throw new ApiError({
        code: 'not-found',
        sentence: `There is no target ${String(route.params.id)}.`,
        remedy: 'Go back to the list and choose another.',
      })
    target.value = found
    saved.value = JSON.stringify(found)
  }
  catch (error) {
    problem.value = problemOf(error)
  }
})
const changed = computed(
  () =>
    target.value !== undefined &&
    (JSON.stringify(target.value) !== saved.value || Object.keys(secrets.value).length > 0),
)
const pairs = (record: Record<string, string> | undefined) => Object.entries(record ?? {}) as Pair[]
const record = (list: Pair[]) => Object.fromEntries(list)
const approved = computed(() => target.value?.approval)
function approve(): void {
  const t = target.value!
  let host = ''
  try {
    const url = new URL(t.baseUrl)
    host = `${url.hostname}:${url.port || (url.protocol === 'https:' ? '443' : '80')}`
  }
  catch {
    /* the address is told when it is saved */
  }
  t.approval = {
    hosts: host ? [host] : [],
    mostUsers: 100,
    until: new Date(Date.now() + 7 * 86_400_000).toISOString(),
    contact: '',
  }
}
/** As an input of the operator's zone shows a moment. */
const local = (iso: string) =>
  new Date(Date.parse(iso) - new Date(iso).getTimezoneOffset() * 60_000).toISOString().slice(0, 16)
const zone = Intl.DateTimeFormat().resolvedOptions().timeZone
function addSecret(): void {
  if (!/^[A-Za-z_][\w-]*$/.test(newName.value) || newValue.value === '') return
  secrets.value = { ...secrets.value, [newName.value]: newValue.value }
  target.value!.secretNames = [...new Set([...(target.value!.secretNames ?? []), newName.value])].sort()
  newName.value = newValue.value = ''
}
function dropSecret(name: string): void {
  target.value!.secretNames = (target.value!.secretNames ?? []).filter(n => n !== name)
  const { [name]: _, ...rest } = secrets.value
  secrets.value = rest
}
async function save(): Promise<void> {
  try {
    target.value = await api<Target>(`targets/${target.value!.id}`, 'PUT', {
      target: target.value!,
      secrets: secrets.value,
    })
    saved.value = JSON.stringify(target.value)
    secrets.value = {}
    problem.value = undefined
    said.value = 'saved'
    setTimeout(() => {
      said.value = ''
    }, 2000)
  }
  catch (error) {
    problem.value = problemOf(error)
  }
}
async function remove(): Promise<void> {
  try {
    await api(`targets/${target.value!.id}/remove`, 'POST')
    await navigateTo('/targets')
  }
  catch (error) {
    problem.value = problemOf(error)
  }
}
useKeys([{ key: 'w', says: 'Save', act: () => void save() }])
useHead({ title: () => `${target.value?.name ?? 'Target'} · Vornak` })
</script>

<template>
  <div class="screen">
    <div class="screen-head">
      <div class="s12 q">
        <NuxtLink to="/targets">Targets</NuxtLink><span v-if="changed" class="plantx"> · changed, not saved</span>
      </div>
      <h1>{{ target?.name ?? 'Target' }}</h1>
    </div>
    <div class="body">
      <ProblemNote v-if="problem" :problem="problem" class="gap" />
      <div v-if="target" class="two">
        <section class="panel pad">
          <h2>Where it is</h2>
          <div class="grid">
            <label>Name <input v-model="target.name" class="field" maxlength="80"></label>
            <label
            >Environment
              <select v-model="target.environment" class="field">
                <option>test</option>
                <option>staging</option>
                <option>production</option>
              </select></label
            >
            <label class="full"
            >Base address <input v-model="target.baseUrl" class="field mono" spellcheck="false"
            ></label>
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
            <span class="q s12">sealed, never shown again; masked in everything that is kept</span>
          </div>
          <div v-for="n in target.secretNames ?? []" :key="n" class="row">
            <b class="mono">{{ n }}</b
            ><span class="q">{{ n in secrets ? 'to be saved' : '••••••' }}</span
            ><button class="btn link sm" @click="dropSecret(n)">Remove</button>
          </div>
          <form class="row" @submit.prevent="addSecret">
            <input
              v-model="newName"
              class="field mono"
              placeholder="name"
              aria-label="Name of the secret"
              spellcheck="false"
            ><input
              v-model="newValue"
              class="field mono"
              type="password"
              placeholder="value"
              aria-label="Value of the secret"
              autocomplete="off"
            ><button class="btn sm" type="submit">Add</button>
          </form>
          <p class="q s12">
            Texts name all of these as <span class="mono">{{ '\{\{target.NAME\}\}' }}</span>.
          </p>
          <details class="s12">
            <summary>Certificate authority to trust</summary>
            <textarea
              class="field tall mono"
              rows="4"
              :value="target.trust ?? ''"
              placeholder="-----BEGIN CERTIFICATE-----"
              aria-label="PEM of the authority"
              @change="target!.trust = ($event.target as HTMLTextAreaElement).value || undefined"
            />
          </details>
        </section>
        <section class="panel pad">
          <div class="top">
            <h2>The owner’s approval</h2>
            <span class="spring" /><button v-if="approved" class="btn link sm" @click="delete target!.approval">
              Take it back
            </button>
          </div>
          <p class="q s12">
            A load test is an attack on what has not agreed to it. Only these hosts are sent to: held at every socket,
            after redirects too. Load, end and hours are looked at when a run is to start: it must fit into them whole.
          </p>
          <template v-if="approved">
            <div class="grid">
              <label class="full"
              >Hosts with port, one a line
                <textarea
                  class="field tall mono"
                  rows="3"
                  :value="approved.hosts.join('\n')"
                  @change="approved!.hosts = ($event.target as HTMLTextAreaElement).value.split(/\s+/).filter(Boolean)"
                />
              </label>
              <label
              >Most users at once <input v-model.number="approved.mostUsers" class="field" inputmode="numeric"
              ></label>
              <label
              >Until
                <input
                  class="field"
                  type="datetime-local"
                  :value="local(approved.until)"
                  @change="approved!.until = new Date(($event.target as HTMLInputElement).value).toISOString()"
                ></label>
              <label>Who agreed <input v-model="approved.contact" class="field"></label>
              <label
              >Hours of the day
                <select
                  class="field"
                  :value="approved.window ? 'some' : 'any'"
                  @change="
                    ($event.target as HTMLSelectElement).value === 'some'
                      ? (approved!.window = { from: '20:00', to: '06:00', zone })
                      : delete approved!.window
                  "
                >
                  <option value="any">any</option>
                  <option value="some">from … to …</option>
                </select></label
              >
              <template v-if="approved.window">
                <label>From <input v-model="approved.window.from" class="field" type="time"></label
                ><label>To <input v-model="approved.window.to" class="field" type="time"></label
                ><label>Zone <input v-model="approved.window.zone" class="field"></label>
              </template>
            </div>
          </template>
          <template v-else
          ><p class="brick gap"><AGlyph name="inTheWay" word="in the way" /> Not approved: nothing is sent.</p>
            <button class="btn" @click="approve">Record an approval</button></template
          >
        </section>
      </div>
      <p v-else-if="!problem" class="q">Reading the target…</p>
    </div>
    <footer class="sill">
      <span class="q">{{ said }}</span
      ><span class="spring" /><button v-if="target" class="btn" @click="remove">Remove</button
      ><button class="btn act" :aria-disabled="!changed" @click="save">
        {{ changed ? 'Save' : 'Nothing to save' }} <kbd>w</kbd>
      </button>
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
.grid label {
  display: grid;
  gap: 2px;
  font-size: 12px;
  color: var(--quiet);
  align-content: start;
}
.grid .field {
  color: var(--ink);
  width: 100%;
}
.full {
  grid-column: 1 / 3;
}
.tall {
  height: auto;
  padding: 6px 8px;
  width: 100%;
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
  grid-template-columns: minmax(0, 2fr) minmax(0, 3fr) 66px;
  gap: 6px;
  align-items: center;
}
@media (max-width: 1100px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>
