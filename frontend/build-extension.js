// Each script of the extension as one file that a browser takes as it is; readable, for whoever must approve it.
import { fileURLToPath } from 'node:url'
import { build } from 'vite'

const root = fileURLToPath(new URL('../extension', import.meta.url))
const outDir = fileURLToPath(new URL('../src/cartouche/web/static/extension', import.meta.url))

for (const name of ['background', 'bridge', 'page', 'frame', 'ask', 'popup'])
  await build({
    root,
    configFile: false,
    logLevel: 'warn',
    publicDir: name === 'background' ? 'public' : false,
    build: {
      outDir,
      emptyOutDir: false,
      minify: false,
      target: 'es2022',
      lib: {
        entry: `src/${name}.ts`,
        formats: ['iife'],
        name: `cartouche_${name}`,
        fileName: () => `${name}.js`,
      },
    },
  })
