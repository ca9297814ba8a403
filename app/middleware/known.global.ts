/**
 * Anyone who is not known signs in first, and gets to where they wanted to go; who comes by a link need not be known.
 */
export default defineNuxtRouteMiddleware(async (to) => {
  if (to.path === '/shared') return
  const me = useMe()
  // A server that does not answer is told of by the screens themselves.
  if (!me.view) await me.load().catch(() => undefined)
  const isSigningIn = to.path === '/sign-in'
  if (me.view && !me.isKnown && !isSigningIn)
    return navigateTo({ path: '/sign-in', query: to.path === '/' ? {} : { to: to.fullPath } })
  if (me.isKnown && isSigningIn) return navigateTo('/')
})
