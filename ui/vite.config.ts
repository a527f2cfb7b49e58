import { createReadStream, createWriteStream } from 'node:fs'
import { readdir } from 'node:fs/promises'
import { join } from 'node:path'
import { pipeline } from 'node:stream/promises'
import { constants, createBrotliCompress, createGzip } from 'node:zlib'
import tailwindcss from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { defineConfig, type Plugin } from 'vite'

const out = '../internal/webui/dist'

/** Packs scripts and styles once at build time; the server sends them packed. */
function packed(): Plugin {
  return {
    name: 'packed',
    apply: 'build',
    async closeBundle() {
      for (const name of await readdir(join(out, 'assets'))) {
        if (!/\.(js|css|svg)$/.test(name)) continue
        const path = join(out, 'assets', name)
        await pipeline(createReadStream(path), createGzip({ level: 9 }), createWriteStream(path + '.gz'))
        const brotli = createBrotliCompress({ params: { [constants.BROTLI_PARAM_QUALITY]: 11 } })
        await pipeline(createReadStream(path), brotli, createWriteStream(path + '.br'))
      }
    },
  }
}

export default defineConfig({
  plugins: [react(), tailwindcss(), packed()],
  build: {
    outDir: out,
    emptyOutDir: false,
    target: 'es2022',
    modulePreload: { polyfill: false },
  },
  server: { proxy: { '/api': 'http://127.0.0.1:8600' } },
})
