import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { afterAll, expect, test } from 'vitest';

// A linter that sees nothing finds nothing: ours is shown faults that only types tell of.

const root = path.resolve(import.meta.dirname, '../..');
const folder = mkdtempSync(path.join(os.tmpdir(), 'ascenso-lint-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

test('faults that only types tell of are found', () => {
  writeFileSync(
    path.join(folder, 'tsconfig.json'),
    '{ "compilerOptions": { "strict": true, "types": [] }, "include": ["*.ts"] }',
  );
  writeFileSync(
    path.join(folder, 'faults.ts'),
    [
      'declare const asked: () => Promise<number>;',
      'declare const kind: "step" | "wait";',
      'declare const given: any;',
      'asked();',
      'switch (kind) { case "step": break; }',
      'export const taken: string = given;',
      'export const waited = async (n: number) => { await n; };',
      'if (asked()) throw "a word";',
    ].join('\n'),
  );
  const run = spawnSync(
    path.join(root, 'node_modules/.bin/oxlint'),
    ['--type-aware', '-c', path.join(root, '.oxlintrc.json'), '--format', 'unix', '.'],
    { cwd: folder, encoding: 'utf8' },
  );
  for (const rule of [
    'no-floating-promises',
    'switch-exhaustiveness-check',
    'no-unsafe-assignment',
    'await-thenable',
    'no-misused-promises',
    'only-throw-error',
  ])
    expect(run.stdout).toContain(`typescript(${rule})`);
  expect(run.status).not.toBe(0);
});
