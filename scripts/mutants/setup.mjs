// In each process that runs tests of core: which mutant lives, and which ones a test comes across.
import { appendFileSync } from 'node:fs';
import { afterAll, expect, inject } from 'vitest';

/** A loop that a mutant keeps from ending is stopped here: no test asks one place as often. */
const AS_OFTEN = 20_000_000;

/** The mutant that lives in this run; -1 where only is looked which ones a test comes across. */
const alive = inject('mutant');
const met = new Set();
let asked = 0;

globalThis.__mutant = (id) => {
  if (alive < 0) met.add(id);
  if (id !== alive) return false;
  if (++asked > AS_OFTEN) throw new Error('This mutant does not come to an end.');
  return true;
};

afterAll(() => {
  if (alive < 0) appendFileSync(inject('met'), `${JSON.stringify([expect.getState().testPath, [...met]])}\n`);
});
