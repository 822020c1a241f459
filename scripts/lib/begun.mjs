import { existsSync, mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { spawnSync } from 'node:child_process';
import path from 'node:path';

// What an installation has begun: so that a second start says where the first one runs, and what a crash left behind is
// ended by the next start. A process is known by its number and by when it began, since numbers are given out again.

/** When a process began, in words of the system; null where there is none of that number. */
export function beganAt(pid) {
  const stat = `/proc/${pid}/stat`;
  if (existsSync('/proc/self/stat')) {
    if (!existsSync(stat)) return null;
    try {
      // The name in brackets may hold anything: what comes behind the last bracket is counted. Field 22 is the start.
      const rest = readFileSync(stat, 'utf8').split(')').at(-1).trim().split(' ');
      return rest[0] === 'Z' ? null : rest[19];
    } catch {
      return null;
    }
  }
  return (
    spawnSync('ps', ['-o', 'lstart=', '-p', String(pid)])
      .stdout.toString()
      .trim() || null
  );
}

export const lives = ({ pid, began }) => beganAt(pid) === began;

/** Reads a JSON file that a crash may have cut off: its fault is told by the name of the file, with what mends it. */
export function readState(file, remedy) {
  if (!existsSync(file)) return null;
  const text = readFileSync(file, 'utf8');
  try {
    return JSON.parse(text);
  } catch {
    throw new Error(`${file} is ${text.trim() === '' ? 'empty' : 'broken'}: ${remedy}`);
  }
}

/** Writes a file whole or not at all. */
export function writeState(file, value, mode = 0o644) {
  writeFileSync(`${file}.new`, typeof value === 'string' ? value : JSON.stringify(value), { mode });
  renameSync(`${file}.new`, file);
}

const self = () => ({ pid: process.pid, began: beganAt(process.pid) });

/** Ends processes: asked first, and by force after ten seconds. */
async function end(all) {
  const signal = (kind) => {
    for (const one of all.filter(lives))
      try {
        process.kill(one.pid, kind);
      } catch {
        // It has just ended by itself.
      }
  };
  signal('SIGTERM');
  for (let i = 0; i < 100 && all.some(lives); i++) await new Promise((resolve) => setTimeout(resolve, 100));
  signal('SIGKILL');
}

/**
 * The list of what one installation runs, in a file of its folder. Throws a sentence where another launcher holds it;
 * ends what one that was killed left behind, and nothing else.
 */
export async function takeOver(folder, report) {
  mkdirSync(folder, { recursive: true });
  const file = path.join(folder, 'running.json');
  const known = readState(
    file,
    'delete it and start again. Processes of a start before may then have to be ended by hand.',
  );
  if (known && lives(known.launcher))
    throw new Error(
      `Ascenso is running here already${known.base ? `: ${known.base}` : ', and still starting'} (process ${known.launcher.pid}). Stop it there with Ctrl C first.`,
    );
  const left = (known?.begun ?? []).filter(lives);
  if (left.length > 0) {
    report(`Ending what the start before left behind: ${left.map((l) => `${l.name} (${l.pid})`).join(', ')} …`);
    await end(left);
  }
  const state = { launcher: self(), base: null, begun: [] };
  const write = () => writeState(file, state);
  write();
  return {
    /** Notes a process as begun; what has ended is forgotten. */
    note(name, pid) {
      state.begun = [...state.begun.filter(lives), { name, pid, began: beganAt(pid) }];
      write();
    },
    /** Notes where the application is to be found. */
    at(base) {
      state.base = base;
      write();
    },
    leave: () => rmSync(file, { force: true }),
  };
}
