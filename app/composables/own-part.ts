import type { AsyncComponentLoader, Component } from 'vue'
import { SILENT } from './api'
import { serverAnswers, serverToAnswer } from './server-answers'

/** How it is told of parts that do not come: once, however many they are, and until it is over. */
const TOLD = { id: 'missing-part', duration: Infinity, progress: false }

/**
 * A part in a file of its own, fetched when it is first drawn: the screen it lies on does not wait for it. One that
 * does not come, as the server does not answer, is told, and drawn once it does; one of an earlier release comes no
 * more.
 */
export function ownPart<T extends Component>(loader: AsyncComponentLoader<T>) {
  const toast = useToast()
  let wasAnswered = false
  return defineAsyncComponent({
    loader,
    suspensible: false,
    async onError(_, retry, fail) {
      const answers = await serverAnswers()
      if (answers && wasAnswered) {
        toast.add({
          ...TOLD,
          title: 'Vornak was brought up to date.',
          description: 'What was asked for is not on this page any more.',
          actions: [{ label: 'Load the page anew', onClick: () => reloadNuxtApp({ force: true }) }],
        })
        return fail()
      }
      if (!answers) {
        toast.add({ ...TOLD, title: SILENT.sentence, description: 'What was asked for opens once it does.' })
        await serverToAnswer()
        toast.remove(TOLD.id)
      }
      wasAnswered = true
      retry()
    },
  })
}
