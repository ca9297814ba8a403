/** A journey that costs a generator CPU. */
import type { Journey } from '../../core/journey/journey'
import { journey, step } from './plans'

/**
 * Much to read and look through: the CPU meets its limit at some hundred users, whatever else this computer is doing.
 */
export const handbook: Journey = journey({
  id: 'handbook',
  name: 'Read the handbook',
  round: [
    step({
      name: 'Handbook',
      url: '/handbook',
      query: [['kb', '40']],
      think: { kind: 'uniform', fromMs: 200, toMs: 400 },
      expect: [
        { kind: 'status', allow: '200' },
        { kind: 'body', rule: 'matches', value: 'choose\\. R' },
      ],
    }),
  ],
})
