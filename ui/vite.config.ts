import { createReadStream, createWriteStream } from 'node:fs'
import { readdir } from 'node:fs/promises'
import { join } from 'node:path'
import { pipeline } from 'node:stream/promises'
import { createGzip } from 'node:zlib'
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
    rollupOptions: {
      output: {
        // Fonts keep their names, so that a letter's own page can ask for one.
        assetFileNames: (file) =>
          file.names[0]?.endsWith('.woff2') ? 'assets/[name][extname]' : 'assets/[name]-[hash][extname]',
      },
    },
  },
  server: { proxy: { '/api': 'http://127.0.0.1:8600' } },
})
