import { defineConfig } from 'vite';

export default defineConfig({
  root: import.meta.dirname,
  build: {
    ssr: true,
    target: 'node20',
    outDir: 'dist',
    rollupOptions: { input: { mailbox: 'src/mailbox/main.ts', crowd: 'src/crowd/main.ts', shop: 'src/shop/main.ts' } },
  },
});
