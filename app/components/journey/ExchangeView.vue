<script setup lang="ts">
/** One exchange as sent and received, with its timings, and what each expectation and capture saw. */
import type { ExchangeRecord } from '~~/core/journey/exchange-record'
import type { SeenAnswer } from '~~/core/journey/journey'
import { FAILURE_WORDS } from '~~/core/journey/failure-kinds'
import { bytes, timeText } from '~~/core/values/said-figures'
import { objectOf } from '~~/core/values/untyped'

const { record, seen } = defineProps<{ record: ExchangeRecord, seen?: SeenAnswer }>()
const PARTS = [
  ['lookupMs', 'name lookup'],
  ['connectMs', 'connect'],
  ['tlsMs', 'TLS'],
] as const
const made = computed(() => PARTS.filter(([key]) => record.timings[key] >= 0))
/** Consecutive stretches of the exchange, ms. */
const stretches = computed(() => {
  const t = record.timings
  const handshake = PARTS.reduce((sum, [key]) => sum + Math.max(0, t[key]), 0)
  if (t.firstByteMs < 0)
    return [
      ...made.value.map(([key, word]) => ({ word, ms: t[key] })),
      { word: 'until it failed', ms: Math.max(0, t.wholeMs - handshake) },
    ]
  const first = t.firstByteMs
  return [
    ...made.value.map(([key, word]) => ({ word, ms: t[key] })),
    { word: 'to the first byte', ms: Math.max(0, first - handshake) },
    { word: 'the rest of the body', ms: Math.max(0, t.wholeMs - first) },
  ]
})
const copy = useCopy()
/** As W3C Trace Context writes it: version, trace, parent, flags. */
const traceId = computed(() => {
  const [, parent] = record.request.headers.find(([name]) => name.toLowerCase() === 'traceparent') ?? []
  return /^[0-9a-f]{2}-([0-9a-f]{32})-/.exec(parent ?? '')?.[1]
})
const pretty = (text: string) => {
  try {
    return JSON.stringify(JSON.parse(text), null, 2)
  }
  catch {
    return text
  }
}
/** Where the answer is not as it was captured. */
const differences = computed(() => {
  const { answer } = record
  if (!seen || !answer) return []
  const found: string[] = []
  if (answer.status !== seen.status) found.push(`status ${answer.status}, captured ${seen.status}`)
  const type = (answer.headers.find(([n]) => n.toLowerCase() === 'content-type')?.[1] ?? '').split(';')[0]!
  if (seen.type && type && type !== seen.type) found.push(`type ${type}, captured ${seen.type}`)
  if (seen.bytes > 0 && Math.abs(answer.bytes - seen.bytes) > Math.max(200, seen.bytes * 0.3))
    found.push(`${bytes(answer.bytes)}, captured ${bytes(seen.bytes)}`)
  if (seen.keys) {
    try {
      const keys = Object.keys(objectOf(JSON.parse(answer.body)))
      const missing = seen.keys.filter(k => !keys.includes(k))
      const added = keys.filter(k => !seen.keys?.includes(k))
      if (missing.length) found.push(`without ${missing.join(', ')}`)
      if (added.length) found.push(`with ${added.join(', ')} besides`)
    }
    catch {
      found.push('no JSON, captured JSON')
    }
  }
  return found
})
</script>

<template>
  <div class="exchange">
    <div class="line">
      <b class="mono addr">{{ record.request.method }} {{ record.request.url }}</b>
    </div>
    <p v-for="h in record.hops" :key="h.url" class="q s12">
      redirected by {{ h.status }} to <span class="mono">{{ h.to }}</span>
    </p>
    <p v-if="record.failure" class="brick">
      <AGlyph name="broken" /> <b>{{ FAILURE_WORDS[record.failure] }}</b><template v-if="record.problem">: {{ record.problem }}</template>
    </p>
    <p v-if="differences.length" class="plantx s12">
      <AGlyph name="costsSoundness" word="differs" /> Differs from the capture: {{ differences.join('; ') }}.
    </p>
    <div class="times" :aria-label="`${timeText(record.timings.wholeMs)} in all`">
      <span
        v-for="(s, i) in stretches"
        :key="s.word"
        class="stretch"
        :title="`${s.word} ${timeText(s.ms)}`"
        :style="{ flexGrow: Math.max(s.ms, record.timings.wholeMs * 0.02) }"
      ><i :class="`i${i % 3}`" /><span class="s11 q clip">{{ s.word }} {{ timeText(s.ms) }}</span></span>
      <b class="whole">{{ timeText(record.timings.wholeMs) }}</b>
    </div>
    <p v-if="record.timings.insideMs !== undefined" class="q s12">
      inside, as the target says, <b>{{ timeText(record.timings.insideMs) }}</b>; on the way
      <b>{{ timeText(Math.max(0, record.timings.wholeMs - record.timings.insideMs)) }}</b>
    </p>
    <p v-if="traceId" class="q s12">
      its trace <b class="mono">{{ traceId }}</b>
      <UButton size="sm" variant="link" @click="copy(traceId, 'the id of its trace')">Copy</UButton>
    </p>
    <div v-if="record.checks.length || record.captured.length" class="checks">
      <div v-for="c in record.checks" :key="c.name" class="check">
        <AGlyph
          :name="c.held ? 'held' : 'broken'"
          :class="c.held ? 'moss' : 'brick'"
          :word="c.held ? 'held' : 'missed'"
        /><span class="clip"><b>{{ c.name }}</b><span v-if="c.onlyCount" class="q"> only counted</span> <span class="q">saw {{ c.saw }}</span></span>
      </div>
      <div v-for="c in record.captured" :key="c.name" class="check">
        <AGlyph
          :name="c.value === undefined ? 'broken' : 'held'"
          :class="c.value === undefined ? 'brick' : 'moss'"
          :word="c.value === undefined ? 'not found' : 'taken'"
        /><span class="clip"><b class="mono">{{ c.name }}</b> <span class="q mono">{{ c.value ?? 'not found' }}</span></span>
      </div>
    </div>
    <div class="two">
      <section>
        <h2>Sent</h2>
        <dl class="mono">
          <template
            v-for="([name, value], i) in record.request.headers"
            :key="i"
          ><dt>{{ name }}</dt>
            <dd>{{ value }}</dd></template>
        </dl>
        <pre v-if="record.request.body" class="mono">{{ pretty(record.request.body) }}</pre>
        <p v-else class="q s12">no body</p>
      </section>
      <section>
        <h2>
          Received
          <span v-if="record.answer" class="q">{{ record.answer.status }}, {{ bytes(record.answer.bytes) }}</span>
        </h2>
        <template v-if="record.answer">
          <dl class="mono">
            <template
              v-for="([name, value], i) in record.answer.headers"
              :key="i"
            ><dt>{{ name }}</dt>
              <dd>{{ value }}</dd></template>
          </dl>
          <pre class="mono">{{ pretty(record.answer.body) }}</pre>
          <p v-if="!record.answer.whole" class="q s12">cut here</p>
        </template>
        <p v-else class="q s12">No answer came.</p>
      </section>
    </div>
  </div>
</template>

<style scoped>
.exchange {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 6px;
  min-width: 0;
}
.addr {
  overflow-wrap: anywhere;
  font-size: 12px;
}
.times {
  display: flex;
  align-items: flex-start;
  gap: 2px;
}
.stretch {
  min-width: 3px;
  flex-basis: 0;
  overflow: hidden;
}
.stretch i {
  display: block;
  height: 10px;
  background: var(--ink);
}
.stretch .i1 {
  background: var(--quiet);
}
.stretch .i2 {
  background: var(--edge);
}
.stretch .clip {
  display: block;
}
.whole {
  white-space: nowrap;
  padding-left: 8px;
  line-height: 12px;
}
.checks {
  min-width: 0;
}
.check {
  display: flex;
  min-width: 0;
  gap: 6px;
  align-items: baseline;
  font-size: 12.5px;
  border-top: 1px solid var(--hair);
  padding: 2px 0;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 2fr) minmax(0, 3fr);
  gap: 14px;
  min-width: 0;
}
dl {
  display: grid;
  grid-template-columns: minmax(60px, auto) minmax(0, 1fr);
  gap: 0 8px;
  font-size: 11px;
  border-top: 1px solid var(--hair);
  padding-top: 3px;
}
dt {
  color: var(--quiet);
}
dd {
  overflow-wrap: anywhere;
}
pre {
  margin-top: 4px;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  font-size: 11px;
  line-height: 15px;
  max-height: 320px;
  overflow: auto;
  background: var(--sunk);
  padding: 6px 8px;
  border-radius: 3px;
}
</style>
