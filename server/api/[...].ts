/** The API: every operation of the table at its address, by its handler. */
import { Readable } from 'node:stream'
import {
  createRouter,
  defineEventHandler,
  getQuery,
  sendRedirect,
  sendStream,
  setResponseHeader,
  setResponseStatus,
  type H3Event,
} from 'h3'
import { addressParts, type OperationId } from '../../api/addresses'
import { OPERATIONS, type Operation } from '../../api/operations'
import type { ApiProblem } from '../../api/views'
import { By } from '../by'
import { checkAnswer, checkProblem } from '../checked-answer'
import type { AnsweredFile, Handler, Led } from '../handler'
import { HANDLERS } from '../handlers'
import { permit } from '../permission'
import { ControlError } from '../../control/errors'
import { coordinator } from '../../control/meeting-place'
import { problemOf } from '../problems'
import { readerOf } from '../request'
import { keysIn } from '../../core/values/written-out'

const router = createRouter()
for (const id of keysIn(OPERATIONS)) {
  const { method, path } = addressParts(id)
  const route = `/api${path.replace(/\{(\w+)\}/g, ':$1')}`
  // What is made small is small.
  router.use(route, operation(id), method.toLowerCase() as Lowercase<typeof method>)
}

export default defineEventHandler(async (event) => {
  const answer: unknown = await router.handler(event)
  return answer ?? unknownAddress(event)
})

function operation(id: OperationId) {
  const read = readerOf(id)
  const { file, asksOnly, isOften, leads }: Operation = OPERATIONS[id]
  const isTold = addressParts(id).method !== 'GET' && asksOnly !== true && isOften !== true
  // Which types belong together only the table knows; handlers and requests are both typed and checked by it.
  const handle = HANDLERS[id] as unknown as Handler<'openApi'>
  return defineEventHandler(async (event) => {
    const by = new By(event)
    const asking = by.caller
    const leaveTrace = (outcome: string, answer?: unknown) => {
      if (!isTold) return
      const inAddress = Object.values(event.context.params ?? {}).join(' ')
      const about = by.about ?? (inAddress || idOf(answer))
      // One who signs in was not known before.
      coordinator().trail.write(asking ?? by.caller, by.visit.from, { act: id, about, outcome })
    }
    try {
      permit(id, by.caller)
      const { at, body } = await read(event.context.params ?? {}, getQuery(event), event.node.req)
      // Read by the operation’s own schemas just before.
      const answer: unknown = await handle(at as never, body as never, by)
      leaveTrace('done', answer)
      // Operations that lead somewhere answer so.
      if (leads) return await sendRedirect(event, (answer as Led).to, 303)
      // Operations that give a file answer so.
      if (file !== undefined) return fileAnswer(event, file, answer as AnsweredFile)
      checkAnswer(id, answer)
      return answer
    }
    catch (error) {
      const problem = problemAnswer(event, error, id)
      leaveTrace(problem.code)
      return problem
    }
  })
}

/** What was made is known by its id. */
function idOf(answer: unknown): string {
  // It may be anything; properties can be read of it.
  const { id } = (answer ?? {}) as { id?: unknown }
  return typeof id === 'string' || typeof id === 'number' ? String(id) : ''
}

function fileAnswer(event: H3Event, usual: string, { content, name, type = usual }: AnsweredFile) {
  setResponseHeader(event, 'content-type', type)
  if (name !== undefined)
    setResponseHeader(event, 'content-disposition', `attachment; filename="${encodeURIComponent(name)}"`)
  if (content instanceof Readable) return sendStream(event, content)
  return typeof content === 'string' ? content : Buffer.from(content)
}

function problemAnswer(event: H3Event, error: unknown, id?: OperationId): ApiProblem {
  let told = problemOf(error)
  try {
    if (id) checkProblem(id, told.problem.code)
  }
  catch (unnamed) {
    told = problemOf(unnamed)
  }
  setResponseStatus(event, told.status)
  return told.problem
}

/** No page stands here: anyone who asks for what the API does not have is told so. */
function unknownAddress(event: H3Event): ApiProblem {
  return problemAnswer(
    event,
    new ControlError(
      'no-such-address',
      404,
      `The API has no ${event.method} ${event.path.split('?')[0]!.slice(0, 200)}.`,
      'See the list of addresses at /api/openapi.json.',
    ),
  )
}
