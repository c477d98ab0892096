import { fileURLToPath } from 'node:url';
import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

const source = (name: string) => fileURLToPath(new URL(`../../packages/${name}/src/index.ts`, import.meta.url));
const isolation = { 'Cross-Origin-Opener-Policy': 'same-origin', 'Cross-Origin-Embedder-Policy': 'require-corp' };

export default defineConfig({
  plugins: [react(), tailwindcss()],
  resolve: {
    alias: [
      {
        find: /^@idle-bend\/core\/([\w-]+)$/,
        replacement: fileURLToPath(new URL('../../packages/core/src/$1/index.ts', import.meta.url)),
      },
      {
        find: /^@idle-bend\/(pipeline|kernels)$/,
        replacement: fileURLToPath(new URL('../../packages/$1/src/index.ts', import.meta.url)),
      },
      {
        find: '@idle-bend/kernels/kernels.wasm',
        replacement: source('kernels').replace('src/index.ts', 'dist/kernels.wasm'),
      },
    ],
  },
  worker: { format: 'es' },
  // Nothing is inlined: the page's policy lets no data: address be fetched.
  build: { target: 'es2023', manifest: true, chunkSizeWarningLimit: 1500, assetsInlineLimit: 0 },
  server: { headers: isolation, proxy: { '/api': { target: 'http://127.0.0.1:4717', changeOrigin: true } } },
});
