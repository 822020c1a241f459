import { defineConfig } from 'vitest/config';

const project = (name: string, extra: object = {}) => ({
  test: { name, root: name, include: ['test/**/*.test.ts', 'test/**/*.test.tsx'], pool: 'forks' as const, ...extra },
});

export default defineConfig({
  test: {
    projects: [
      project('core'),
      project('web'),
      project('standins'),
      project('server', { testTimeout: 60_000, hookTimeout: 60_000, fileParallelism: false }),
    ],
  },
});
