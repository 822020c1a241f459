import { defineConfig } from 'vite';

// One built file per process. Our own packages are bundled; what comes from the registry stays outside.
export default defineConfig({
  root: import.meta.dirname,
  build: {
    ssr: true,
    target: 'node20',
    outDir: 'dist',
    rollupOptions: {
      input: {
        web: 'src/web.ts',
        engine: 'src/engine.ts',
        bootstrap: 'src/bootstrap.ts',
        history: 'src/history.ts',
        'report-worker': 'src/mail/report-worker.ts',
      },
    },
  },
  ssr: { noExternal: [/^@ascenso\//] },
});
