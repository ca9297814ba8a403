<script setup lang="ts">
/**
 * What an element says in its title, shown as the standard tooltip: under the pointer, and where the keyboard is, too.
 * Escape takes it away (WCAG 2.2, 1.4.13). Where there are thousands of elements, each needs no tooltip of its own.
 */
import { useEventListener } from '@vueuse/core'

/** Sooner than the browser shows its own, ms. */
const DELAY_MS = 300
/** Where the tooltip stands in the page. */
const TIP = '[data-reka-popper-content-wrapper]'

const shown = shallowRef<{ element: HTMLElement, text: string }>()
let waiting: ReturnType<typeof setTimeout> | undefined
let under: Element | undefined
/** A click moves the focus too, and asks for nothing. */
let isByPointer = false

function look(target: EventTarget | null): void {
  const element = target instanceof Element ? target.closest<HTMLElement>('[title]') : undefined
  // Over what is shown, or still over what it says something of.
  if (element && element === under) return
  if (shown.value && target instanceof Element && (shown.value.element.contains(target) || target.closest(TIP))) return
  hide()
  if (!element || isItsName(element)) return
  under = element
  waiting = setTimeout(() => show(element), DELAY_MS)
}
/** A title that is all the name there is stays where it is. */
function isItsName(element: HTMLElement): boolean {
  return element instanceof HTMLIFrameElement || !(element.hasAttribute('aria-label') || element.textContent?.trim())
}
function show(element: HTMLElement): void {
  const text = element.getAttribute('title')
  if (!text || !element.isConnected) return
  // Or the browser would show it beside; who hears it goes on hearing it.
  element.removeAttribute('title')
  element.setAttribute('aria-description', text)
  shown.value = { element, text }
}
function hide(): void {
  clearTimeout(waiting)
  under = undefined
  const { element, text } = shown.value ?? {}
  shown.value = undefined
  if (!element || text === undefined) return
  element.removeAttribute('aria-description')
  // It may say something else by now.
  if (!element.hasAttribute('title')) element.setAttribute('title', text)
}
useEventListener(document, 'pointerover', event => look(event.target))
useEventListener(document, 'focusin', event => isByPointer || look(event.target))
useEventListener(document, ['focusout', 'wheel'], hide, { passive: true })
useEventListener(document, 'pointerdown', () => {
  isByPointer = true
  hide()
})
// Escape takes it away, and every other key does something to what is there.
useEventListener(document, 'keydown', () => {
  isByPointer = false
  hide()
})
onBeforeUnmount(hide)
</script>

<template>
  <UTooltip v-if="shown" :key="shown.text" open :text="shown.text" :reference="shown.element" />
</template>
