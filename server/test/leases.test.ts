import { afterEach, beforeEach, expect, test, vi } from 'vitest';
import { Leases } from '../src/engine/leases.ts';

// What a process works on stays its own, and no longer: notices, too, whose receivers may take longer than any lease.
beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

test('what is held is renewed well before its lease ends, and what is let go is not', async () => {
  const renewed: { ids: string[]; until: number }[] = [];
  const leases = new Leases<{ id: string }>(60_000, (held, until) => {
    renewed.push({ ids: held.map((h) => h.id), until });
    return Promise.resolve();
  });
  const begun = Date.now();
  leases.hold([{ id: 'a' }, { id: 'b' }]);
  let end = begun + 60_000;
  for (let at = begun; at < begun + 300_000; at += 5_000) {
    await vi.advanceTimersByTimeAsync(5_000);
    end = renewed.at(-1)?.until ?? end;
    expect(end).toBeGreaterThan(Date.now());
  }
  leases.release([{ id: 'a' }]);
  await vi.advanceTimersByTimeAsync(20_000);
  expect(renewed.at(-1)?.ids).toEqual(['b']);
  leases.release([{ id: 'b' }]);
  const count = renewed.length;
  await vi.advanceTimersByTimeAsync(300_000);
  expect(renewed).toHaveLength(count);
});

test('a database that is away for a moment is asked again', async () => {
  let tried = 0;
  const leases = new Leases<{ id: string }>(60_000, () => {
    tried++;
    return tried === 1 ? Promise.reject(new Error('Connection terminated')) : Promise.resolve();
  });
  leases.hold([{ id: 'a' }]);
  await vi.advanceTimersByTimeAsync(45_000);
  expect(tried).toBe(3);
  leases.release([{ id: 'a' }]);
});
