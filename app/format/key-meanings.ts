/** What each key means, on every screen the same. `docs/keys.md` is this table. */
export const KEY_MEANINGS = {
  1: 'Go to the board',
  2: 'Go to the journeys',
  3: 'Go to the plans',
  4: 'Go to the fleet',
  5: 'Go to the runs',
  '?': 'Show the keys',
  'Ctrl+K': 'Find anything, do anything',
  'Ctrl+S': 'Save',
  'Ctrl+Z': 'Undo',
  'Ctrl+Shift+Z': 'Redo',
  a: 'Run again',
  b: 'About it: its own settings',
  c: 'Clone',
  d: 'Everything in the set-up, or what differed',
  e: 'The whole run',
  f: 'Fix the first of what is in the way',
  g: 'Add a group',
  h: 'Hold the others against this run',
  i: 'From addresses to a first answer',
  j: 'The window that is judged',
  k: 'The next run in ink',
  l: 'Add a location',
  m: 'Mark this second',
  n: 'New one',
  p: 'Go to the placement grid',
  r: 'Ask anew: providers, machines',
  s: 'Start, with what it costs first',
  S: 'Stop: let users finish',
  t: 'As text',
  v: 'Versions',
  w: 'Wider or narrower',
  x: 'The next stretch in which an objective was broken',
  y: 'Try',
  z: 'Zoom in on the window, or out',
  '[': 'The section before',
  ']': 'The next section',
} as const

export type Key = `${keyof typeof KEY_MEANINGS}`

/** How a key press is written there; ⌘ stands for Ctrl. */
export function writtenKey(event: Pick<KeyboardEvent, 'key' | 'ctrlKey' | 'metaKey' | 'shiftKey'>): string {
  if (!event.ctrlKey && !event.metaKey) return event.key
  return `Ctrl+${event.shiftKey ? 'Shift+' : ''}${event.key.toUpperCase()}`
}
