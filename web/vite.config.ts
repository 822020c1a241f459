import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';
import { dictionaryFiles } from './dictionary-files.ts';

const server = process.env.API ?? 'http://127.0.0.1:4310';

export default defineConfig({
  plugins: [react(), tailwindcss()],
  resolve: { alias: [dictionaryFiles] },
  build: { chunkSizeWarningLimit: 1500 },
  worker: { format: 'es' },
  // It finds its WebAssembly beside itself.
  optimizeDeps: { exclude: ['hunspell-wasm'] },
  server: {
    host: '127.0.0.1',
    proxy: Object.fromEntries(['/api', '/intake', '/f', '/o', '/c', '/u'].map((p) => [`${p}/`, server])),
  },
});
