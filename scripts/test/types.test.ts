import { spawnSync } from 'node:child_process';
import {
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { afterAll, expect, test } from 'vitest';

// What keeps “core changed, web broke” from being missed: the rooms' own settings, on rooms of a few lines.

const root = path.resolve(import.meta.dirname, '../..');
const rooms = readdirSync(root).filter((name) => existsSync(path.join(root, name, 'tsconfig.json')));
const referred = (file: string) =>
  ((JSON.parse(readFileSync(file, 'utf8')) as { references?: { path: string }[] }).references ?? []).map((r) =>
    path.basename(r.path),
  );

const folder = mkdtempSync(path.join(os.tmpdir(), 'ascenso-types-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

function write(file: string, text: string): void {
  mkdirSync(path.dirname(path.join(folder, file)), { recursive: true });
  writeFileSync(path.join(folder, file), text);
}

/** What the type check says of the small rooms: '' where all is well. */
function check(): string {
  const run = spawnSync(process.execPath, [path.join(root, 'node_modules/ts7/bin/tsc'), '-b'], { cwd: folder });
  return run.stdout.toString() + run.stderr.toString();
}

test('every room is checked', () => {
  expect(referred(path.join(root, 'tsconfig.json')).sort()).toEqual(rooms.sort());
});

test('what changed in core and broke web is told, also where web itself did not change', () => {
  for (const room of ['core', 'contracts', 'web']) {
    cpSync(path.join(root, room, 'tsconfig.json'), path.join(folder, room, 'tsconfig.json'), { recursive: true });
    write(`${room}/package.json`, readFileSync(path.join(root, room, 'package.json'), 'utf8'));
    mkdirSync(path.join(folder, 'node_modules/@ascenso'), { recursive: true });
    symlinkSync(path.join(folder, room), path.join(folder, 'node_modules/@ascenso', room));
  }
  for (const shared of ['@types', 'vite', 'react', 'csstype'])
    symlinkSync(path.join(root, 'node_modules', shared), path.join(folder, 'node_modules', shared));
  write('tsconfig.base.json', readFileSync(path.join(root, 'tsconfig.base.json'), 'utf8'));
  write('vitest.config.ts', 'export default {};\n');
  write('tsconfig.json', '{ "files": [], "references": [{ "path": "web" }] }');
  write('contracts/src/index.ts', "export type { Day } from '@ascenso/core';\n");
  write(
    'core/src/index.ts',
    'export interface Day {\n  name: string;\n}\nexport const first = (): Day => ({ name: "Monday" });\n',
  );
  write('web/dictionary-files.ts', 'export {};\n');
  write('web/vite.config.ts', 'export {};\n');
  write(
    'web/src/main.ts',
    "import { first } from '@ascenso/core';\nimport type { Day } from '@ascenso/contracts';\nconst day: Day = first();\nexport const words: string = day.name;\n",
  );
  expect(check()).toBe('');
  // Nothing that others see.
  write(
    'core/src/index.ts',
    'export interface Day {\n  name: string;\n}\nexport const first = (): Day => ({ name: "Tuesday" });\n',
  );
  expect(check()).toBe('');
  write(
    'core/src/index.ts',
    'export interface Day {\n  name: number;\n}\nexport const first = (): Day => ({ name: 2 });\n',
  );
  expect(check()).toContain("web/src/main.ts(4,14): error TS2322: Type 'number' is not assignable to type 'string'.");
  // Told again as long as it stands.
  expect(check()).toContain('web/src/main.ts(4,14)');
});
