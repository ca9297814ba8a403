/** The live socket: the meter, and word of what has changed. Data flows one way: socket, store, view. */
import { defineStore } from 'pinia'
import type { LiveMessage, MeterView, SecondFigures } from '~~/api/views'

/** Pause before trying again, ms. */
const RETRY_MS = 1000
/** Without news for this long the screen says that it is stale, ms: the meter comes every second. */
const STALE_MS = 4000

export const useLive = defineStore('live', () => {
  const meter = shallowRef<MeterView>()
  const heardAt = ref(0)
  /** The controller's clock minus this browser's, ms. */
  const offset = ref(0)
  const now = ref(Date.now())
  const listeners = new Set<(message: LiveMessage) => void>()
  let socket: WebSocket | undefined
  let watched: number | undefined

  /** The controller's time, moving with this browser's clock. */
  const controllerNow = computed(() => now.value + offset.value)
  const stale = computed(() => heardAt.value > 0 && now.value - heardAt.value > STALE_MS)

  function connect(): void {
    const base = useRuntimeConfig().public.live || location.origin
    socket = new WebSocket(`${String(base).replace(/^http/, 'ws')}/live`)
    socket.onopen = () => {
      watch(watched)
      for (const listen of listeners) listen({ kind: 'fleet' })
      if (watched !== undefined) for (const listen of listeners) listen({ kind: 'run', runId: watched })
    }
    // The server’s own words, as texts.
    socket.onmessage = ({ data }) => take(JSON.parse(data as string) as LiveMessage)
    socket.onclose = () => setTimeout(() => void again(), RETRY_MS)
  }

  /** Anyone who is not known any more is told nothing and signs in; then this goes on. */
  async function again(): Promise<void> {
    const me = useMe()
    const wasKnown = me.isKnown
    // A server that is down will be asked again.
    if (wasKnown) await me.load().catch(() => undefined)
    if (me.isKnown) return connect()
    if (wasKnown) await toSignIn()
    setTimeout(() => void again(), RETRY_MS)
  }

  function take(message: LiveMessage): void {
    heardAt.value = Date.now()
    if (message.kind === 'meter') {
      meter.value = keepingUnchanged(meter.value, message.meter)
      offset.value = message.meter.now - Date.now()
    }
    for (const listen of listeners) listen(message)
  }

  /** Asks for the seconds of a run, or of none. */
  function watch(runId: number | undefined): void {
    watched = runId
    if (socket?.readyState === WebSocket.OPEN && runId !== undefined) socket.send(JSON.stringify({ watch: runId }))
  }

  /** The screen that goes asks for it no more; the next one may have come before that, and asks for another. */
  function unwatch(runId: number | undefined): void {
    if (watched === runId) watched = undefined
  }

  /** Calls back on every message while the calling component is there. */
  function onNews(listen: (message: LiveMessage) => void): void {
    listeners.add(listen)
    onUnmounted(() => listeners.delete(listen))
  }

  let hasBegun = false
  /** Once, however often the frame comes and goes. */
  function begin(): void {
    if (hasBegun) return
    hasBegun = true
    connect()
    setInterval(() => {
      now.value = Date.now()
    }, 250)
  }

  return { meter, heardAt, now, controllerNow, stale, begin, watch, unwatch, onNews }
})

export type { SecondFigures }
