<script setup lang="ts">
/** Feeds: rows of test data. Uploaded as CSV; how it was read is shown, and can be overruled. */
import type { UploadedFile } from '~~/api/views'
import { bytes, count } from '~~/core/values/said-figures'
import type { ListColumn } from '~/components/marks/list-table'
import { present } from '~~/core/values/present'

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
      file: present(file.value, 'the file that was uploaded').id,
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
type Feed = NonNullable<typeof feeds.value>[number]
const columns: ListColumn<Feed>[] = [
  { id: 'name', head: 'Feed', value: f => f.name },
  { id: 'columns', head: 'Columns', wide: true, value: f => f.columns.join(', ') },
  { id: 'rows', head: 'Rows', num: true, value: f => f.rows },
]
/** Rows of the chosen feed as they stand in its file; two of its columns may have one name. */
interface Previewed {
  number: number
  cells: readonly string[]
}
const preview = computed((): Previewed[] => feed.value?.preview.map((cells, i) => ({ number: i + 1, cells })) ?? [])
const previewed = computed((): ListColumn<Previewed>[] => [
  { id: 'number', head: 'Row', value: r => r.number },
  ...(feed.value?.columns ?? []).map((head, i): ListColumn<Previewed> => ({ id: `c${i}`, head, value: r => r.cells[i] })),
])
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
        <ProblemNote v-if="problem && !(file && problem.faults)" :problem="problem" />
        <FaultForm v-if="file" :problem="problem?.faults && problem" class="panel form" @submit="make">
          <b>{{ file.name }}</b><span class="q s12">{{ bytes(file.bytes) }}; read it another way:</span>
          <UFormField name="name" label="Name"><UInput v-model="reading.name" /></UFormField>
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
        </FaultForm>
        <p v-else-if="busy" class="q">Reading…</p>
        <ListTable v-if="feeds?.length" name="feeds" :rows="feeds" :columns="columns" :row-key="f => f.id">
          <template #name="{ row }">
            <UButton
              variant="link"
              size="sm"
              :aria-pressed="row.id === feed?.id"
              @click="chosen = row.id"
            >{{ row.name }}</UButton>
          </template>
          <template #columns="{ row }"><span class="q s12">{{ row.columns.join(', ') }}</span></template>
          <template #rows="{ row }">{{ count(row.rows) }}</template>
        </ListTable>
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
          <ListTable name="the first rows" plain :rows="preview" :columns="previewed" :row-key="r => r.number" />
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
</style>
