import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import os from 'node:os';
import path from 'node:path';
import { afterAll, describe, expect, test } from 'vitest';
import { freePort, isFree, portsOf } from '../lib/ports.mjs';

const folder = mkdtempSync(path.join(os.tmpdir(), 'ascenso-ports-'));
const file = path.join(folder, 'ports.json');
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** Somebody else listens on a port while `work` goes on. */
async function taken(port: number, work: () => Promise<void>): Promise<void> {
  const server = createServer();
  await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve));
  await work();
  await new Promise((resolve) => server.close(resolve));
}

test('two who ask get two ports, also when neither listens yet', async () => {
  const ports = await Promise.all(Array.from({ length: 200 }, freePort));
  expect(new Set(ports).size).toBe(200);
  // Systems hand out ports from 32768 on to whoever goes out.
  expect(ports.every((p) => p >= 1024 && p < 32_768)).toBe(true);
});

test('an installation’s ports are seven, and the same at its next start', async () => {
  const first = await portsOf(folder, { anew: true });
  expect(new Set(Object.values(first)).size).toBe(7);
  expect(await portsOf(folder, { anew: false })).toEqual(first);
});

test('a port that is taken is told with what to do; where nothing was sent yet, others are chosen', async () => {
  const { shop = 0 } = await portsOf(folder, { anew: false });
  await taken(shop, async () => {
    expect(await isFree(shop)).toBe(false);
    await expect(portsOf(folder, { anew: false })).rejects.toThrow(
      `Port ${shop}, which this installation has for “shop”, is taken by another program.`,
    );
    const before = readFileSync(file, 'utf8');
    await expect(portsOf(folder, { anew: false })).rejects.toThrow(file);
    expect(readFileSync(file, 'utf8')).toBe(before);
    expect((await portsOf(folder, { anew: true })).shop).not.toBe(shop);
  });
});

describe('a file that is broken is told by its name, with what mends it', () => {
  test.each([
    ['', 'is empty'],
    ['{"web": 4', 'is broken'],
    ['[1, 2]', 'does not hold ports by name'],
    ['null', 'does not hold ports by name'],
    ['"4310"', 'does not hold ports by name'],
    ['{"web": "4310"}', 'says "4310" for “web”, which is no port'],
    ['{"web": 70000}', 'says 70000 for “web”, which is no port'],
    ['{"web": 21310, "smtp": 21310}', 'gives port 21310 to two'],
  ])('%s', async (text, told) => {
    writeFileSync(file, text);
    await expect(portsOf(folder, { anew: false })).rejects.toThrow(told);
    await expect(portsOf(folder, { anew: false })).rejects.toThrow(/--fresh/);
    expect(readFileSync(file, 'utf8')).toBe(text);
  });
});
