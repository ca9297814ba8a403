/**
 * Clients that ship with Vornak: neutral examples of what programs say of themselves. Their names are invented, so that
 * a target tells them from real visitors; write down what your own users send where it matters.
 */
import type { Client } from './client'

const INVENTED = 'Invented: an example of this kind of program.'

export const CLIENT_PRESETS: readonly Client[] = [
  {
    id: 'desktop-browser',
    name: 'desktop browser',
    headers: [
      ['user-agent', 'ExampleBrowser/1.0 (desktop)'],
      ['accept', 'text/html,application/xhtml+xml,*/*;q=0.8'],
      ['accept-language', 'en-GB,en;q=0.8'],
    ],
    source: INVENTED,
  },
  {
    id: 'phone-browser',
    name: 'phone browser',
    headers: [
      ['user-agent', 'ExampleBrowser/1.0 (phone)'],
      ['accept', 'text/html,application/xhtml+xml,*/*;q=0.8'],
      ['accept-language', 'en-GB,en;q=0.8'],
      ['save-data', 'on'],
    ],
    source: INVENTED,
  },
  {
    id: 'phone-app',
    name: 'phone app',
    headers: [
      ['user-agent', 'ExampleApp/3.2 (phone)'],
      ['accept', 'application/json'],
    ],
    source: INVENTED,
  },
  {
    id: 'partner-program',
    name: 'partner’s program',
    headers: [
      ['user-agent', 'ExamplePartner/1.0'],
      ['accept', 'application/json'],
    ],
    source: INVENTED,
  },
]
