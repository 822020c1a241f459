import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

const server = process.env.API ?? 'http://127.0.0.1:4310';

export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: { chunkSizeWarningLimit: 1500 },
  worker: { format: 'es' },
  server: {
    host: '127.0.0.1',
    proxy: Object.fromEntries(['/api', '/intake', '/f', '/o', '/c', '/u'].map((p) => [`${p}/`, server])),
  },
});
