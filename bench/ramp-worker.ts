/**
 * One generator of the ramp bench: a load as always, telling when each user really started, ms from the start moment.
 */
import { sliceFor } from '../core/run/slice'
import type { RunDocument } from '../core/run/document'
import { HealthReader } from '../generator/users/health'
import { Load, NO_SUPPLIES } from '../generator/users/load'
import { User } from '../generator/users/user'
import { warmUp } from '../generator/users/warm-up'

const health = new HealthReader({
  hostname: '',
  platform: '',
  node: '',
  cores: 1,
  memoryBytes: 2 ** 34,
  descriptors: 1e6,
})
let prepared: { document: RunDocument, generator: number, generators: number } | undefined
const starts: number[] = []
let zero = 0

// The moment is taken where a user begins, in the code that runs everywhere.
const start = User.prototype.start
User.prototype.start = function (this: User, now: number) {
  if (zero > 0) starts.push(performance.timeOrigin + performance.now() - zero)
  start.call(this, now)
}

process.on('message', (message: { kind: string, startAt: number } & NonNullable<typeof prepared>) => {
  if (message.kind === 'prepare') {
    prepared = message
    void warmUp(health).then(() => process.send!({ kind: 'prepared' }))
    return
  }
  const slice = sliceFor(prepared!.document, [Array.from({ length: prepared!.generators }, () => 1)], {
    location: 0,
    generator: prepared!.generator,
  })
  zero = message.startAt
  new Load(
    {
      runId: '1',
      document: prepared!.document,
      slice,
      incarnation: 1,
      worker: 0,
      leaveMs: 500,
      health,
      supplies: NO_SUPPLIES,
      onExemplar() {
        /* thrown away */
      },
      onFrame() {
        /* thrown away */
      },
      onFinished: () => process.send!({ kind: 'started', starts }),
    },
    message.startAt - performance.timeOrigin,
  ).run()
})
process.on('disconnect', () => process.exit(0))
