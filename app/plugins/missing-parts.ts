/**
 * A page whose parts do not come, as the server does not answer or has been brought up to date meanwhile: one stays
 * where one is, is told, and gets there once the server answers, with all parts loaded anew.
 */
import { SILENT } from '~/composables/api'
import { serverAnswers, serverToAnswer } from '~/composables/server-answers'

export default defineNuxtPlugin((nuxt) => {
  const router = useRouter()
  const toast = useToast()
  const missing = new Set<unknown>()
  let awaited: string | undefined
  let told: string | number | undefined

  nuxt.hook('app:chunkError', ({ error }) => void missing.add(error))
  // Anyone who goes elsewhere meanwhile waits for it no more.
  router.beforeEach(() => {
    awaited = undefined
    missing.clear()
    if (told !== undefined) toast.remove(told)
    told = undefined
  })
  router.onError((error, to) => {
    if (!missing.has(error)) return
    awaited = to.fullPath
    void goOnceItAnswers(to.fullPath)
  })

  async function goOnceItAnswers(path: string): Promise<void> {
    if (await serverAnswers()) return reloadNuxtApp({ path })
    if (awaited !== path) return
    const description = 'The page opens once it does.'
    told = toast.add({ title: SILENT.sentence, description, duration: Infinity, progress: false }).id
    await serverToAnswer()
    if (awaited === path) reloadNuxtApp({ path })
  }
})
