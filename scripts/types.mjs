import { existsSync, readdirSync } from 'node:fs';
import { spawnSync } from 'node:child_process';
import path from 'node:path';
import { root } from './lib/run.mjs';

// Checks the types of every room. Not by `tsc -b`: that takes a room for up to date as long as its own files are, also when
// one that it uses has changed. One after the other, incremental: what did not change, and uses nothing that did, is not checked again.
const rooms = readdirSync(root, { withFileTypes: true })
  .filter((d) => d.isDirectory() && existsSync(path.join(root, d.name, 'tsconfig.json')))
  .map((d) => d.name)
  // And what stands beside them.
  .concat('.');
const tsc = path.join(root, 'node_modules/typescript/bin/tsc');
const failed = rooms.filter(
  (room) => spawnSync(process.execPath, [tsc, '-p', room], { cwd: root, stdio: 'inherit' }).status !== 0,
);
process.exitCode = failed.length > 0 ? 1 : 0;
