import { svelte } from '@sveltejs/vite-plugin-svelte'
import tailwindcss from '@tailwindcss/vite'
import { defineConfig } from 'vitest/config'

/** What a student's own page loads has a name that stays, as that page is not built here. */
const OWN: Record<string, string> = { own: 'assets/own.js', 'own-worker': 'assets/own-worker.js' }

export default defineConfig({
  plugins: [tailwindcss(), svelte()],
  resolve: process.env.VITEST ? { conditions: ['browser'] } : undefined,
  build: {
    target: 'es2022',
    sourcemap: false,
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 700,
    rollupOptions: {
      input: { main: 'index.html', train: 'train.html', own: 'src/own/page.ts', 'own-worker': 'src/own/worker.ts' },
      output: { entryFileNames: ({ name }) => OWN[name] ?? 'assets/[name]-[hash].js' },
    },
  },
  server: { proxy: { '/api': 'http://127.0.0.1:8000' } },
  test: { include: ['src/**/*.test.ts'] },
})
