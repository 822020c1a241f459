import { readdirSync, readFileSync } from 'node:fs';
import { expect, test } from 'vitest';
import { checks } from '../src/checks/index.ts';

/** The sources of the tests of checks: a case is known by the check that it names, and every case is held by `checkCase`. */
const sources = readdirSync(import.meta.dirname)
  .filter((f) => /^checks.*\.test\.ts$/.test(f))
  .map((f) => readFileSync(`${import.meta.dirname}/${f}`, 'utf8'))
  .join('\n');
const cases = new Set([...sources.matchAll(/check: '([\w-]+)'/g)].map((m) => m[1]));

test('every check has a sample that it finds, and a near miss that it lets pass', () => {
  expect(checks.map((c) => c.id).filter((id) => !cases.has(id))).toEqual([]);
});

test('no two checks are told under one name', () => {
  expect(new Set(checks.map((c) => c.id)).size).toBe(checks.length);
});
