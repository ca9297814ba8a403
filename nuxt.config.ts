// Pages and API of Vornak. The process that serves them is main/; this builds only the listener it mounts.
const nitro = {
  serveStatic: true,
  compressPublicAssets: true,
  // While developing, the API is the running process's.
  ...(process.env.VORNAK_DEV_API
    ? { devProxy: { '/api': { target: `${process.env.VORNAK_DEV_API}/api`, changeOrigin: true } } }
    : {}),
}

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
  ui: { fonts: false },
  // Where the app finds the coordinator's live socket; empty: its own origin.
  runtimeConfig: { public: { live: '' } },
  serverDir: 'server',
  compatibilityDate: '2026-01-01',
  // Nuxt's own type of this key is empty unless the server engine is a direct dependency.
  ...({ nitro } as object),
  vite: { build: { target: 'es2022', chunkSizeWarningLimit: 900 } },
  typescript: { strict: true },
  telemetry: false,
  eslint: { config: { stylistic: { braceStyle: 'stroustrup' } } },
  icon: { provider: 'none', serverBundle: 'local', clientBundle: { scan: true } },
})
