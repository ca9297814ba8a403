import type { AsyncComponentLoader, Component } from 'vue'

/** A part in a file of its own, fetched when it is first drawn: the screen it lies on does not wait for it. */
export const ownPart = <T extends Component>(loader: AsyncComponentLoader<T>) =>
  defineAsyncComponent({ loader, suspensible: false })
