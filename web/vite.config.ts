import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  plugins: [vue()],
  build: { outDir: '../fernbrook/webapp', emptyOutDir: true, chunkSizeWarningLimit: 1200 },
  server: { port: 5173, proxy: { '/api': { target: 'http://127.0.0.1:8420', changeOrigin: true } } },
  test: { environment: 'happy-dom', include: ['src/**/*.spec.ts'] },
})
