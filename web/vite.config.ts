import { fileURLToPath } from 'node:url'

import react from '@vitejs/plugin-react'
import { defineConfig } from 'vite'

import { preloads } from './preloads.ts'

export default defineConfig({
  plugins: [react(), preloads()],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  // of ./haremile dev: the interface is another process, which sees the host that the browser asked for
  server: {
    proxy: Object.fromEntries(
      ['/api', '/enter', '/haremile-'].map((path) => [
        path,
        { target: process.env.HAREMILE_API, changeOrigin: false },
      ]),
    ),
  },
  build: { chunkSizeWarningLimit: 900 },
})
