import { mkdtempSync, readdirSync, readFileSync, rmSync, symlinkSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { afterAll, expect, test } from 'vitest';
import { LogFile, lossOfLog } from '../../src/app/log-file.ts';
import { until } from '../support/killing.ts';

// Linux has a disk that is always full: /dev/full takes no byte (ENOSPC).
const folder = mkdtempSync(path.join(os.tmpdir(), 'ascenso-log-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

test('a full disk ends nothing: the process says so, goes on without its log, and writes again once there is room', async () => {
  const today = new Date();
  const day = [today.getFullYear(), today.getMonth() + 1, today.getDate()].map((n) => String(n).padStart(2, '0'));
  const file = path.join(folder, `web.${day.join('-')}.1.log`);
  symlinkSync('/dev/full', file);
  const log = new LogFile(folder, 'web', 200);
  expect(lossOfLog()).toBeNull();
  const begun = Date.now();
  log.write('{"msg":"first"}\n');
  await until('the loss is told', () => lossOfLog() !== null, 20_000);
  expect(lossOfLog()).toEqual({ since: expect.any(Number), why: 'the disk is full' });
  expect(lossOfLog()?.since).toBeGreaterThanOrEqual(begun);
  // Whoever writes meanwhile notices nothing.
  for (let i = 0; i < 1_000; i++) log.write('{"msg":"meanwhile"}\n');
  rmSync(file);
  await until('it writes again', () => lossOfLog() === null, 20_000);
  log.write('{"msg":"again"}\n');
  const written = () =>
    readdirSync(folder)
      .map((f) => readFileSync(path.join(folder, f), 'utf8'))
      .join('');
  await until('the line is there', () => written().includes('"again"'), 20_000);
  expect(written()).toContain('"the log could not be written"');
});
