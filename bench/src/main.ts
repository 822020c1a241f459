import { advance, advanceWithBranches } from './advance.ts';
import { asking } from './asking.ts';
import { checks, compile, personal } from './content.ts';
import { coreAdvance, rehearsal } from './core.ts';
import { keys } from './keys.ts';
import { mime } from './mime.ts';
import { peopleFile } from './people-file.ts';
import { plan } from './plan.ts';
import { render } from './render.ts';
import { screens } from './screens.ts';
import { send } from './send.ts';
import { sendCodes } from './send-codes.ts';
import { storage } from './storage.ts';
import { timer, timerHttp } from './timer.ts';
import { typing } from './typing.ts';

// Prints one JSON line per measurement: {name, value, unit, baseline, ratio}. `npm run bench -- send` runs one.
const all: Record<string, () => Promise<void>> = {
  core: coreAdvance,
  rehearsal,
  advance,
  branches: advanceWithBranches,
  render,
  mime,
  send,
  plan,
  compile,
  checks,
  personal,
  typing,
  keys,
  timer,
  'timer-http': timerHttp,
  codes: sendCodes,
  'people-file': peopleFile,
  asking,
  screens,
  storage,
};
// A number behind a name says how large: `-- screens 20`.
const wanted = process.argv.slice(2).filter((name) => Number.isNaN(Number(name)));
const unknown = wanted.filter((name) => !all[name]);
if (unknown.length > 0) {
  console.error(`There is no measurement “${unknown.join(', ')}”. There are: ${Object.keys(all).join(', ')}.`);
  process.exit(2);
}
for (const name of wanted.length > 0 ? wanted : Object.keys(all)) await all[name]?.();
