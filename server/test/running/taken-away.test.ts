import { mkdirSync, rmSync, symlinkSync } from 'node:fs';
import path from 'node:path';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { Installation, isAlive } from '../support/installation.ts';
import { until } from '../support/killing.ts';

// Whatever is taken away from the processes of an installation, while strangers send what they like to every public address:
// each process is there afterwards, under the same number.
const house = new Installation('taken-away-test');
const PROCESSES = ['web process', 'engine 1', 'crowd', 'shop'];
const FILE = '01a212d8-a4c0-77ac-a941-000000000000';
const TOKEN = Buffer.alloc(43, 7).toString('base64url');

/** What strangers send: each public address, as it should be and as it should not. */
const ADDRESSES: [method: string, address: string, body?: string][] = [
  ['GET', '/health'],
  ['GET', '/ready'],
  ['GET', '/'],
  ['GET', '/form.js'],
  ['GET', '/site.js'],
  ...['%00', '%', FILE, 'x', '%ff%fe', '..%2f..'].flatMap((id): [string, string, string?][] => [
    ['GET', `/form/${id}`],
    ['POST', `/form/${id}`, 'email=a%40b.example&agree=yes'],
    ['GET', `/f/${id}`],
    ['GET', `/j/${id}`],
    ['POST', `/j/${id}`, ''],
    ['GET', `/j/${id}/file`],
  ]),
  ...[TOKEN, '%00', '%', 'x'].flatMap((token): [string, string, string?][] => [
    ['GET', `/u/${token}`],
    ['POST', `/u/${token}`, 'List-Unsubscribe=One-Click'],
    ['GET', `/o/${token}.gif`],
    ['GET', `/c/${token}/1`],
    ['GET', `/t/${token}/1.gif`],
  ]),
  ['POST', '/v', '{"site":"\u0000"}'],
  ['POST', '/intake/events', '[{"\u0000":1}]'],
  ['POST', '/intake/subscribers', '{"email":"a@b.example"}'],
  ['GET', '/intake/codes/%00'],
  ['POST', '/api/session', '{"email":{"a":1}}'],
  ['GET', '/api/sequences'],
  ['GET', '/nowhere/%00'],
];

beforeAll(async () => {
  house.clear();
  await house.start(['--fresh']);
}, 180_000);
afterAll(async () => {
  await house.end('SIGTERM');
  house.clear();
});

/** The number of a process, or of none while there is none. */
const pidNow = (name: string): number | null => {
  try {
    return house.pidOf(name);
  } catch {
    return null;
  }
};
const pids = () => PROCESSES.map((name) => house.pidOf(name));
/** Every address once. Answers the status of each; 0 where nobody answered. */
const everywhere = () =>
  Promise.all(
    ADDRESSES.map(([method, address, body]) =>
      fetch(`${house.base}${address}`, {
        method,
        redirect: 'manual',
        ...(body === undefined
          ? {}
          : {
              body,
              headers: {
                'Content-Type':
                  body.startsWith('{') || body.startsWith('[')
                    ? 'application/json'
                    : 'application/x-www-form-urlencoded',
              },
            }),
        signal: AbortSignal.timeout(60_000),
      }).then(
        async (answer) => {
          await answer.arrayBuffer();
          return answer.status;
        },
        () => 0,
      ),
    ),
  );
const ready = () =>
  fetch(`${house.base}/ready`).then(
    (a) => a.status === 200,
    () => false,
  );

test('nothing is taken away: no address answers with a fault of ours', async () => {
  const before = pids();
  const found = await everywhere();
  expect(ADDRESSES.filter((_, i) => (found[i] ?? 0) >= 500 || found[i] === 0)).toEqual([]);
  expect(pids()).toEqual(before);
});

test.each([
  ['PostgreSQL', 'SIGQUIT'],
  ['mailbox', 'SIGKILL'],
] as const)('%s is taken away, and comes back', async (name, signal) => {
  const before = pids();
  const victim = house.pidOf(name);
  process.kill(victim, signal);
  // While it is away, and as it comes back: whoever is asked answers, and nobody ends.
  for (let i = 0; i < 3; i++) expect(await everywhere()).not.toContain(0);
  await until('it is back', async () => ![victim, null].includes(pidNow(name)) && (await ready()), 60_000);
  const found = await everywhere();
  expect(ADDRESSES.filter((_, i) => (found[i] ?? 0) >= 500)).toEqual([]);
  expect(pids()).toEqual(before);
  expect(before.every(isAlive)).toBe(true);
});

test('the disk of the log is full: all go on, and say so', async () => {
  await house.end('SIGTERM');
  const logs = path.join(house.folder, 'logs');
  const today = new Date();
  const day = [today.getFullYear(), today.getMonth() + 1, today.getDate()]
    .map((n) => String(n).padStart(2, '0'))
    .join('-');
  rmSync(logs, { recursive: true, force: true });
  mkdirSync(logs, { recursive: true });
  for (const name of ['web', 'engine-1']) symlinkSync('/dev/full', path.join(logs, `${name}.${day}.1.log`));
  await house.start();
  const before = pids();
  await until(
    'it is told',
    async () => {
      expect(await everywhere()).not.toContain(0);
      const told = (await (await fetch(`${house.base}/ready`)).json()) as { ready: boolean; log?: string };
      return told.ready && told.log === 'cannot be written: the disk is full';
    },
    30_000,
  );
  expect(pids()).toEqual(before);
  expect(before.every(isAlive)).toBe(true);
});
