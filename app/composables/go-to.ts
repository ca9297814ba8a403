/**
 * Goes to another page. Nuxt's `navigateTo` does nothing while the middleware of another step is at work, such as that
 * of a dialog's closing; the router does it after that.
 */
import type { RouteLocationRaw } from 'vue-router'

export const goTo = (to: RouteLocationRaw) => useRouter().push(to)
