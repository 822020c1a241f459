import fc from 'fast-check';
import { expect, test } from 'vitest';
import { oneByOne } from '../src/composer/one-by-one.ts';

test('never two at once, in the order asked, the newest always done, whatever fails', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.scheduler(),
      fc.array(fc.record({ fails: fc.boolean(), at: fc.boolean() }), { minLength: 1, maxLength: 12 }),
      async (s, asked) => {
        const run = oneByOne();
        const done: number[] = [];
        let busy = 0;
        for (const [i, { fails, at }] of asked.entries()) {
          // Some are asked for while others run, some after a rest.
          if (at) await s.waitIdle();
          run(async () => {
            expect(++busy).toBe(1);
            await s.schedule(Promise.resolve());
            busy--;
            done.push(i);
            if (fails) throw new Error('It failed.');
          });
        }
        await s.waitIdle();
        expect(done.at(-1)).toBe(asked.length - 1);
        expect(done).toEqual([...done].sort((a, b) => a - b));
        expect(new Set(done).size).toBe(done.length);
        // What is asked for while nothing runs is done itself.
        for (const [i, { at }] of asked.entries()) if (at || i === 0) expect(done).toContain(i);
      },
    ),
  );
});
