import { createRequire } from 'node:module';
import path from 'node:path';
import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

// The package exports its reader for Node only; a browser wants the files themselves.
const dictionary = path.dirname(createRequire(import.meta.url).resolve('dictionary-en'));

const server = process.env.API ?? 'http://127.0.0.1:4310';

export default defineConfig({
  plugins: [react(), tailwindcss()],
  resolve: { alias: { 'dictionary-en-files': dictionary } },
  build: { chunkSizeWarningLimit: 1500 },
  worker: { format: 'es' },
  server: {
    host: '127.0.0.1',
    proxy: Object.fromEntries(['/api', '/intake', '/f', '/o', '/c', '/u'].map((p) => [`${p}/`, server])),
  },
});
