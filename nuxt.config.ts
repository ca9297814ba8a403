// Pages and API of Vornak. The process that serves them is main/; this builds only the listener it mounts.
export default defineNuxtConfig({
  modules: ['@nuxt/ui', '@pinia/nuxt', '@nuxt/eslint'],
  ssr: false,
  devtools: { enabled: false },
  telemetry: false,
  compatibilityDate: '2026-01-01',
  css: ['~/assets/main.css'],
  components: [{ path: '~/components', pathPrefix: false, extensions: ['vue'] }],
  imports: { dirs: ['stores'] },
  app: { head: { title: 'Vornak', htmlAttrs: { lang: 'en' }, meta: [{ name: 'viewport', content: 'width=device-width, initial-scale=1' }], link: [{ rel: 'icon', type: 'image/svg+xml', href: '/vornak.svg' }] } },
  ui: { fonts: false },
  icon: { provider: 'none', serverBundle: 'local', clientBundle: { scan: true } },
  // Where the app finds the coordinator's live socket; empty: its own origin.
  runtimeConfig: { public: { live: '' } },
  nitro: { serveStatic: true, compressPublicAssets: true },
  serverDir: 'server',
  vite: { build: { target: 'es2022', chunkSizeWarningLimit: 900 } },
  typescript: { strict: true },
  eslint: { config: { stylistic: { braceStyle: 'stroustrup' } } },
})
