// How vitest runs core with mutants in it. Which ones, and where they stand, is told by the file that ASCENSO_MUTANTS names.
import { readFileSync } from 'node:fs';
import { resolve } from 'node:path';
import { withMutants } from './points.mjs';

const root = resolve(import.meta.dirname, '../..');
const mutants = JSON.parse(readFileSync(process.env.ASCENSO_MUTANTS, 'utf8'));
const at = (id) => mutants.filter((m) => resolve(root, m.file) === id);

export default {
  root: resolve(root, 'core'),
  plugins: [
    {
      name: 'mutants',
      enforce: 'pre',
      transform: (code, id) => {
        const here = at(id);
        return here.length ? { code: withMutants(code, here), map: null } : undefined;
      },
    },
  ],
  test: {
    include: ['test/**/*.test.ts'],
    setupFiles: [resolve(import.meta.dirname, 'setup.mjs')],
    pool: 'forks',
    testTimeout: 60_000,
    watch: false,
  },
};
