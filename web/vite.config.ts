import { copyFileSync, mkdirSync } from 'node:fs'
import vue from '@vitejs/plugin-vue'
import type { Plugin } from 'vite'
import { defineConfig } from 'vitest/config'

const OUT = '../fernbrook/webapp'

/** Puts what the API's own page needs beside the built page, so that it works offline too. */
function apiPage(): Plugin {
  return {
    name: 'api-page',
    apply: 'build',
    closeBundle() {
      mkdirSync(`${OUT}/api-page`, { recursive: true })
      for (const file of ['swagger-ui.css', 'swagger-ui-bundle.js'])
        copyFileSync(`node_modules/swagger-ui-dist/${file}`, `${OUT}/api-page/${file}`)
    },
  }
}

export default defineConfig({
  plugins: [vue(), apiPage()],
  build: { outDir: OUT, emptyOutDir: true, chunkSizeWarningLimit: 1200 },
  server: { port: 5173, proxy: { '/api': { target: 'http://127.0.0.1:8420', changeOrigin: true } } },
  test: { environment: 'happy-dom', include: ['src/**/*.spec.ts'] },
})
