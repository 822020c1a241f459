import { existsSync } from 'node:fs';
import path from 'node:path';
import { root, run, say } from './lib/run.mjs';

// Lint: npm run lint, or npm run lint -- FILE … for some files. What needs types is asked of the native linter, which takes
// a fraction of the time and memory; the rules of hooks, of patterns and our own of eslint, which remembers what it has seen. The dependency rule has its own stage, since it looks at all files or none.
const files = process.argv.slice(2).filter((file) => /\.(ts|tsx)$/.test(file) && existsSync(path.join(root, file)));
const some = process.argv.length > 2;
// Tests and benches are read by nobody's browser and meet no stranger.
const ROOMS = ['core/src', 'contracts/src', 'server/src', 'standins/src', 'demo/src', 'web/src'];
const eslint = ['eslint', '--max-warnings', '0', '--cache', '--cache-strategy', 'content'];
const where = ['--cache-location', 'node_modules/.cache/eslint/'];

const failed = [];
// The native linter takes what memory it gets: told of a limit, it cleans up sooner.
const env = { ...process.env, GOMEMLIMIT: '1000MiB' };
const look = (args) => run('npx', args, { env }).catch((error) => failed.push(error.message));
if (!some || files.length > 0) await look(['oxlint', '--type-aware', '--deny-warnings', ...files]);
if (!some || files.length > 0) await look([...eslint, ...where, ...(some ? files : ROOMS)]);
for (const message of failed) say(message);
process.exitCode = failed.length > 0 ? 1 : 0;
