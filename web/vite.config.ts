import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'
import { VitePWA } from 'vite-plugin-pwa'

export default defineConfig({
  plugins: [
    vue(),
    // The application itself is kept on the device, so that a visit opens without network. Data is kept by src/offline.
    VitePWA({
      registerType: 'prompt',
      injectRegister: null, // src/offline/keep.ts registers it once there is nothing better to do
      manifest: {
        name: 'Next Round',
        short_name: 'Next Round',
        description: 'Coil cleaning: what is next, and the visit step by step.',
        start_url: '/',
        display: 'standalone',
        background_color: '#f8f6f1',
        theme_color: '#0d5c6b',
        icons: [
          { src: '/icon.svg', sizes: 'any', type: 'image/svg+xml', purpose: 'any' },
          { src: '/icon-192.png', sizes: '192x192', type: 'image/png' },
          { src: '/icon-512.png', sizes: '512x512', type: 'image/png' },
        ],
      },
      workbox: {
        globPatterns: ['**/*.{js,css,html,svg,png,woff2,gz}'],
        maximumFileSizeToCacheInBytes: 8_000_000,
        navigateFallback: '/index.html',
        navigateFallbackDenylist: [/^\/api\//, /^\/metrics/, /^\/healthz/, /^\/readyz/],
        cleanupOutdatedCaches: true,
        clientsClaim: true,
      },
    }),
  ],
  build: { outDir: 'dist', emptyOutDir: false, sourcemap: false, chunkSizeWarningLimit: 700 },
  // For the fast loop: pages reload as they are written, and ask the server named here.
  server: {
    port: Number(process.env.NEXTROUND_WEB_PORT ?? 5173),
    proxy: { '/api': process.env.NEXTROUND_API ?? 'http://127.0.0.1:8080' },
  },
})
