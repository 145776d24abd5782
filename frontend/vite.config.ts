import { fileURLToPath } from 'node:url'
import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  base: './', // the server says where it stands, see web/pages.py
  server: { fs: { allow: ['..'] } }, // the manual stands in docs/
  plugins: [vue()],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  build: {
    outDir: '../src/cartouche/web/static',
    emptyOutDir: true,
    target: 'es2022',
    chunkSizeWarningLimit: 900,
    manifest: true, // the guests' door serves what guest.html needs and nothing else
    rollupOptions: { input: ['index.html', 'guest.html', 'watch.html', 'remote.html'] },
  },
  test: {
    environment: 'happy-dom',
    projects: [
      // one page for all of them: to set one up costs each file twenty times what its tests do
      { extends: true, test: { name: 'shared', include: ['tests/*.test.ts'], isolate: false } },
      { extends: true, test: { name: 'mocked', include: ['tests/mocked/*.test.ts'] } }, // a module that is replaced would stay so
    ],
  },
})
