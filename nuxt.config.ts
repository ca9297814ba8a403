// Pages and API of Vornak. The process that serves them is main/; this builds only the listener it mounts.
const nitro = {
  serveStatic: true,
  compressPublicAssets: true,
  externals: { inline: ['@sinclair/typebox'] },
  // While developing, the API is the running process's.
  ...(process.env.VORNAK_DEV_API
    ? { devProxy: { '/api': { target: `${process.env.VORNAK_DEV_API}/api`, changeOrigin: true } } }
    : {}),
}

/**
 * What this many pages and panels share is one file, not a file each: every file is a request. Fewer would bring to the
 * first page what it has no use for; more would leave a hundred small ones.
 */
const SHARED_BY = 20

export default defineNuxtConfig({
  modules: ['@nuxt/ui', '@pinia/nuxt', '@nuxt/eslint'],
  ssr: false,
  components: [{ path: '~/components', pathPrefix: false, extensions: ['vue'] }],
  imports: { dirs: ['stores'] },
  devtools: { enabled: false },
  app: {
    head: {
      title: 'Vornak',
      htmlAttrs: { lang: 'en' },
      meta: [{ name: 'viewport', content: 'width=device-width, initial-scale=1' }],
      link: [{ rel: 'icon', type: 'image/svg+xml', href: '/vornak.svg' }],
    },
  },
  css: ['~/assets/main.css'],
  // Each colour named is a seventh of every component's theme: only meanings there are.
  ui: {
    fonts: false,
    theme: { colors: ['primary', 'success', 'warning', 'error'], transitions: false },
    experimental: { componentDetection: true },
  },
  // Where the app finds the coordinator's live socket; empty: its own origin.
  runtimeConfig: { public: { live: '' } },
  serverDir: 'server',
  // A page's parts are fetched when one is about to go there, not because a link to it is in sight.
  experimental: {
    // A page that does not come is waited for: plugins/missing-parts.
    emitRouteChunkError: 'manual',
    defaults: { nuxtLink: { prefetchOn: { visibility: false, interaction: true } } },
  },
  compatibilityDate: '2026-01-01',
  // Nuxt's own type of this key is empty unless the server engine is a direct dependency.
  ...({ nitro } as object),
  vite: {
    build: {
      target: 'es2022',
      chunkSizeWarningLimit: 1000,
      reportCompressedSize: false,
      // One sheet: the parts' own are some forty files of a few lines.
      cssCodeSplit: false,
      rolldownOptions: {
        output: {
          codeSplitting: { groups: [{ name: 'shared', minShareCount: SHARED_BY }] },
          strictExecutionOrder: true,
        },
      },
    },
  },
  typescript: { strict: true },
  telemetry: false,
  hooks: {
    // What the first screen has no use for is not asked for before it stands; the layout fetches what may come next.
    'build:manifest'(manifest) {
      for (const part of Object.values(manifest)) part.prefetch = false
    },
    // The page of parts is for those who build Vornak, not for those who use it.
    'pages:extend'(pages) {
      if (process.env.NODE_ENV !== 'development') pages.splice(pages.findIndex(p => p.path === '/parts'), 1)
    },
  },
  eslint: { config: { stylistic: { braceStyle: 'stroustrup' } } },
  icon: { provider: 'none', serverBundle: 'local', clientBundle: { scan: true } },
})
