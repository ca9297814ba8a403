<script setup lang="ts">
/** Feeds: rows of test data. Uploaded as CSV; how it was read is shown, and can be overruled. */
import type { UploadedFile } from '~~/api/views'
import { bytes, count } from '~~/core/values/said-figures'

const { problem, guarded, read } = useGuarded()
const { found: feeds, load } = read('feeds')
const chosen = ref<string>()
const file = ref<UploadedFile>()
const busy = ref(false)
const reading = ref<{
  name: string
  encoding: string
  separator: string
  header: string
  ragged: 'refuse' | 'fill'
}>({
  name: '',
  encoding: '',
  separator: '',
  header: '',
  ragged: 'refuse',
})
const feed = computed(() => feeds.value?.find(f => f.id === chosen.value) ?? feeds.value?.[0])
const SEPARATORS: Record<string, string> = { ',': 'comma', ';': 'semicolon', '\t': 'tab', '|': 'bar' }

function sent(uploaded: UploadedFile): void {
  file.value = uploaded
  reading.value = {
    name: uploaded.name.replace(/\.\w+$/, ''),
    encoding: '',
    separator: '',
    header: '',
    ragged: 'refuse',
  }
  void make()
}
async function make(): Promise<void> {
  busy.value = true
  const r = reading.value
  await guarded(async () => {
    const made = await api('newFeed', {}, {
      file: file.value!.id,
      name: r.name || 'feed',
      ...(r.encoding ? { encoding: r.encoding } : {}),
      ...(r.separator ? { separator: r.separator } : {}),
      ...(r.header ? { header: r.header === 'yes' } : {}),
      ragged: r.ragged,
    })
    file.value = undefined
    await load()
    chosen.value = made.id
  })
  busy.value = false
}
const removal = useRemoval(load)
const remove = (id: string) =>
  guarded(async () => {
    await api('removeFeed', { feed: id })
    await removal('feed', id, feeds.value?.find(f => f.id === id)?.name ?? id)
  })
useHead({ title: 'Feeds · Vornak' })
</script>

<template>
  <div class="screen">
    <div class="screen-head"><LibraryTabs /></div>
    <div class="body two">
      <div class="left">
        <FilePick
          label="A CSV file"
          accept=".csv,.tsv,.txt"
          @sent="sent"
          @failed="
            p => {
              problem = p
            }
          "
        />
        <ProblemNote v-if="problem" :problem="problem" />
        <form v-if="file" class="panel form" @submit.prevent="make">
          <b>{{ file.name }}</b><span class="q s12">{{ bytes(file.bytes) }}; read it another way:</span>
          <UFormField label="Name"><UInput v-model="reading.name" /></UFormField>
          <UFormField label="Encoding">
            <PickOne
              v-model="reading.encoding"
              :items="[
                { value: '', label: 'as recognised' },
                ...['utf-8', 'utf-16le', 'utf-16be', 'windows-1252', 'iso-8859-15', 'shift_jis'].map(e => ({ value: e, label: e })),
              ]"
            />
          </UFormField>
          <UFormField label="Separator">
            <PickOne
              v-model="reading.separator"
              :items="[
                { value: '', label: 'as recognised' },
                ...Object.entries(SEPARATORS).map(([s, w]) => ({ value: s, label: w })),
              ]"
            />
          </UFormField>
          <UFormField label="First line">
            <PickOne
              v-model="reading.header"
              :items="[
                { value: '', label: 'as recognised' },
                { value: 'yes', label: 'names of columns' },
                { value: 'no', label: 'a row' },
              ]"
            />
          </UFormField>
          <UFormField label="Rows of another length">
            <PickOne
              v-model="reading.ragged"
              :items="[
                { value: 'refuse', label: 'are refused' },
                { value: 'fill', label: 'are filled and cut' },
              ]"
            />
          </UFormField>
          <UButton v-needs="'operator'" variant="solid" type="submit">{{ busy ? 'Reading…' : 'Read it so' }}</UButton>
        </form>
        <p v-else-if="busy" class="q">Reading…</p>
        <div v-if="feeds?.length" class="panel">
          <button
            v-for="f in feeds"
            :key="f.id"
            class="row"
            :class="{ here: f.id === feed?.id }"
            @click="chosen = f.id"
          >
            <span class="clip"><b>{{ f.name }}</b><br><span class="q s12">{{ f.columns.join(', ') }}</span></span><span class="num">{{ count(f.rows) }}<br><span class="q s12">rows</span></span>
          </button>
        </div>
        <p v-else-if="feeds" class="q">No feed yet: rows that users are given, like accounts or search words.</p>
      </div>
      <section v-if="feed" class="panel pad">
        <div class="top">
          <h2>{{ feed.name }}</h2>
          <span class="spring" /><UButton v-needs="'operator'" size="sm" variant="link" @click="remove(feed.id)">Remove</UButton>
        </div>
        <p class="s12 q">
          {{ count(feed.rows) }} rows of {{ feed.columns.length }} columns, {{ bytes(feed.rowsBytes) }}; read as
          {{ feed.encoding }}, separated by {{ SEPARATORS[feed.separator] ?? feed.separator }},
          {{ feed.header ? 'with a line of names' : 'without names'
          }}<template v-if="feed.remarks.length">; {{ feed.remarks.join('; ') }}</template>.
        </p>
        <p class="s12 q">
          Journeys name its columns as <span class="mono">{{ `\{\{name.${feed.columns[0]}\}\}` }}</span>, with the name
          they use it by.
        </p>
        <div class="preview">
          <table class="table">
            <thead>
              <tr>
                <th class="num rownum">row</th>
                <th v-for="c in feed.columns" :key="c" class="mono">{{ c }}</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="(row, i) in feed.preview" :key="i">
                <td class="num q">{{ i + 1 }}</td>
                <td v-for="(cell, n) in row" :key="n" class="cell">{{ cell }}</td>
              </tr>
            </tbody>
          </table>
        </div>
        <p v-if="feed.rows > feed.preview.length" class="q s12">
          and {{ count(feed.rows - feed.preview.length) }} more
        </p>
      </section>
    </div>
    <footer class="sill">
      <span class="q">Rows go to generators in slices; where each is dealt once, no two users ever hold the same.</span>
    </footer>
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: 340px minmax(0, 1fr);
  gap: 12px;
  align-items: start;
}
.left {
  display: grid;
  gap: 8px;
}
.form {
  display: grid;
  gap: 6px;
  padding: 8px 12px;
}
.row {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  width: 100%;
  text-align: left;
  padding: 6px 10px;
  border-bottom: 1px solid var(--hair);
  cursor: pointer;
}
.row:last-child {
  border-bottom: 0;
}
.row.here {
  background: var(--sel);
  box-shadow: inset 2px 0 var(--act);
}
.pad {
  padding: 6px 12px 10px;
  min-width: 0;
}
.top {
  display: flex;
  align-items: center;
}
.spring {
  flex: 1;
}
.preview {
  overflow: auto;
  margin-top: 6px;
}
.rownum {
  width: 40px;
}
.cell {
  max-width: 280px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
