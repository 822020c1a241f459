import { defineConfig } from 'vitest/config';
import LongestFirst from './scripts/lib/longest-first.mjs';
import { dictionaryFiles } from './web/dictionary-files.ts';

// Properties of a thousand cases take seconds on a busy machine: a limit is there for what hangs.
const project = (name: string, extra: object = {}, config: object = {}) => ({
  ...config,
  test: {
    name,
    root: name.split(' ')[0],
    include: ['test/**/*.test.ts', 'test/**/*.test.tsx'],
    pool: 'forks' as const,
    testTimeout: 60_000,
    ...extra,
  },
});

/** Tests that put something else in the place of a module: each has a process of its own. */
const ALONE = ['test/simulation.test.ts', 'test/histories.test.ts'];
// The others share what a few processes have loaded once: reading the whole server takes longer than most of its tests.
// Three of them on two cores: while one waits for PostgreSQL, for a clock or for another process, the others go on.
const server = { hookTimeout: 120_000, maxWorkers: 3 };

export default defineConfig({
  test: {
    // What was transformed once is not transformed again while it stays as it is.
    experimental: { fsModuleCache: true },
    sequence: { sequencer: LongestFirst },
    projects: [
      project('core', { isolate: false }),
      project('web', {}, { resolve: { alias: [dictionaryFiles] } }),
      project('standins'),
      project('scripts'),
      project('server', { ...server, isolate: false, exclude: ALONE }),
      project('server alone', { ...server, include: ALONE }),
    ],
  },
});
