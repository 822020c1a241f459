import { writeFileSync, mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { expect, test } from 'vitest';
import { keepGoing, keepProcess, type Begun } from '../../../scripts/lib/keep.mjs';
import { isAlive } from '../support/installation.ts';
import { until } from '../support/killing.ts';

test('stopped in the middle of starting something again, nothing stays behind', async () => {
  const running = new Set<number>();
  let n = 0;
  let end = () => {};
  let finish = () => {};
  const begin = async (): Promise<Begun> => {
    const own = n++;
    // The second start takes its time.
    if (own === 1) await new Promise<void>((resolve) => (finish = resolve));
    running.add(own);
    const ended = new Promise<void>((resolve) => (end = resolve));
    return { ended, stop: () => Promise.resolve(void running.delete(own)) };
  };
  const kept = keepGoing('the engine', begin, () => undefined);
  await kept.ready;
  running.delete(0);
  end();
  await until('it is being started again', () => n === 2, 5_000);
  const stopped = kept.stop();
  finish();
  await stopped;
  expect([...running]).toEqual([]);
});

test('a process that cannot be noted is ended, and not left running unheard', async () => {
  const folder = mkdtempSync(path.join(os.tmpdir(), 'ascenso-keep-'));
  const file = path.join(folder, 'stays.mjs');
  writeFileSync(file, `console.log('{"ready":true}'); setInterval(() => {}, 1000);`);
  let pid = 0;
  const note = (_name: string, given: number) => {
    pid = given;
    throw new Error('The folder is gone.');
  };
  const kept = keepProcess('shop', file, { env: process.env, report: () => undefined, note });
  await expect(kept.ready).rejects.toThrow('The folder is gone.');
  expect(pid).toBeGreaterThan(0);
  expect(isAlive(pid)).toBe(false);
  rmSync(folder, { recursive: true });
});
