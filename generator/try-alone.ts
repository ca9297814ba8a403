/** The generator program as a try uses it: one journey, one user, messages as lines on standard input and output. */
import { createInterface } from 'node:readline'
import { readToGenerator, type FromGenerator } from '../protocol/messages'
import { hostFacts } from './link/host-facts'
import { SupplyLine } from './link/supplies'
import { HealthReader } from './users/health'
import { tryJourneys } from './users/try-journeys'

export function runTryAlone(): void {
  const say = (message: FromGenerator) => {
    process.stdout.write(`${JSON.stringify(message)}\n`)
  }
  const supplyLine = new SupplyLine(say)
  createInterface({ input: process.stdin })
    .on('line', (line) => {
      const message = readToGenerator(line)
      if (message.kind === 'part') supplyLine.take(message)
      if (message.kind !== 'try') return
      const { id, document, supplies } = message
      const health = new HealthReader(hostFacts())
      void supplyLine
        .fetch(supplies)
        .then(({ secrets, files, feeds }) =>
          tryJourneys(
            document,
            `try-${id}`,
            {
              secrets,
              files: new Map(files),
              feeds: new Map(feeds),
              post: { generator: 0, generators: 1, worker: 0, workers: 1 },
            },
            health,
          ),
        )
        .then(
          tried => say({ kind: 'tried', id, ...tried }),
          (error: Error) => say({ kind: 'tried', id, records: [], problem: error.message }),
        )
    })
    .on('close', () => process.exit(0))
}
