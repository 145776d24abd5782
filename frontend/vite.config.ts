import { fileURLToPath } from 'node:url'
import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  plugins: [vue()],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  build: { outDir: '../src/cartouche/web/static', emptyOutDir: true, target: 'es2022', chunkSizeWarningLimit: 900 },
  test: { environment: 'happy-dom', include: ['tests/**/*.test.ts'] },
})
