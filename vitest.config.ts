import { defineConfig } from 'vitest/config';
import { dictionaryFiles } from './web/dictionary-files.ts';

// Properties of a thousand cases take seconds on a busy machine: a limit is there for what hangs.
const project = (name: string, extra: object = {}, config: object = {}) => ({
  ...config,
  test: {
    name,
    root: name,
    include: ['test/**/*.test.ts', 'test/**/*.test.tsx'],
    pool: 'forks' as const,
    testTimeout: 60_000,
    ...extra,
  },
});

export default defineConfig({
  test: {
    projects: [
      project('core'),
      project('web', {}, { resolve: { alias: [dictionaryFiles] } }),
      project('standins'),
      project('scripts'),
      project('server', { hookTimeout: 120_000, maxWorkers: 2 }),
    ],
  },
});
