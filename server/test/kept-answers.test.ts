import { afterEach, beforeEach, expect, test, vi } from 'vitest';
import { KeptAnswers } from '../src/app/kept-answers.ts';

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

test('an answer is given at once for half a minute, then given while it is made anew behind it, and after ten minutes no more', async () => {
  const answers = new KeptAnswers<number>();
  let made = 0;
  const get = () => answers.get('a', () => Promise.resolve(++made));
  // Two who ask at the same time wait for one count.
  expect(await Promise.all([get(), get()])).toEqual([
    { answer: 1, age: 0 },
    { answer: 1, age: 0 },
  ]);
  vi.advanceTimersByTime(30_000);
  expect(await get()).toEqual({ answer: 1, age: 30_000 });
  vi.advanceTimersByTime(1_000);
  expect(await get()).toEqual({ answer: 1, age: 31_000 });
  await vi.advanceTimersByTimeAsync(0);
  expect(await get()).toEqual({ answer: 2, age: 0 });
  vi.advanceTimersByTime(600_001);
  expect(await get()).toEqual({ answer: 3, age: 0 });
});

test('a count that fails is told to whoever has nothing else, and costs nobody an older answer', async () => {
  const answers = new KeptAnswers<number>();
  const fails = () => Promise.reject(new Error('away'));
  await expect(answers.get('a', fails)).rejects.toThrow('away');
  expect((await answers.get('a', () => Promise.resolve(1))).answer).toBe(1);
  vi.advanceTimersByTime(40_000);
  expect((await answers.get('a', fails)).answer).toBe(1);
});
