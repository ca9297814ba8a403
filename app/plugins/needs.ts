/**
 * `v-needs="'operator'"`: a control that the server would refuse to the one who sits here. It is greyed, and says whose
 * it is; the server decides all the same.
 */
import type { ObjectDirective } from 'vue'
import type { Role } from '~~/api/roles'

/** Those that are greyed by it, with the title they had. */
const held = new WeakMap<HTMLElement, string | null>()

function hold(element: HTMLElement, needed: Role): void {
  if (useMe().may(needed) === !held.has(element)) return
  if (held.has(element)) {
    const title = held.get(element)
    held.delete(element)
    for (const name of ['disabled', 'aria-disabled']) element.removeAttribute(name)
    if (title) element.title = title
    else element.removeAttribute('title')
    return
  }
  held.set(element, element.getAttribute('title'))
  element.setAttribute(element.tagName === 'BUTTON' ? 'disabled' : 'aria-disabled', 'true')
  element.title = needed === 'keeper' ? 'A keeper’s.' : 'An operator’s: a keeper gives the role.'
}

const needs: ObjectDirective<HTMLElement, Role> = {
  mounted: (element, { value }) => hold(element, value),
  updated: (element, { value }) => hold(element, value),
}

declare module 'vue' {
  interface GlobalDirectives {
    vNeeds: typeof needs
  }
}

export default defineNuxtPlugin(({ vueApp }) => {
  vueApp.directive('needs', needs)
})
