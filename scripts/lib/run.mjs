import { spawn, spawnSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import path from 'node:path';

export const root = path.resolve(path.dirname(fileURLToPath(import.meta.url)), '../..');
export const isRoot = process.getuid?.() === 0;

/** Says what is going on, in one line. */
export const say = (text) => process.stdout.write(`${text}\n`);

// Each is the head of a group of its own, so that what it has begun in turn ends with it.
const underWay = new Set();

/** Ends every command that is still running, with all that it has begun. */
export function endRuns() {
  for (const child of underWay)
    try {
      process.kill(-child.pid, 'SIGTERM');
    } catch {
      // It has just ended by itself.
    }
}
// Whoever ends this process ends them too.
process.on('exit', endRuns);

/**
 * Runs a command to its end. Its output is shown only when it fails, unless `show` is set; `line` is called with each
 * line as it comes.
 */
export function run(command, args, options = {}) {
  return new Promise((resolve, reject) => {
    const { show = false, line = null, ...rest } = options;
    const stdio = show ? 'inherit' : ['ignore', 'pipe', 'pipe'];
    const child = spawn(command, args, { cwd: root, stdio, detached: true, ...rest });
    underWay.add(child);
    let output = '';
    let begun = '';
    child.stdout?.on('data', (d) => {
      output += d;
      const lines = (begun + d).split('\n');
      begun = lines.pop();
      if (line) lines.forEach(line);
    });
    child.stderr?.on('data', (d) => (output += d));
    child.on('error', (error) => {
      underWay.delete(child);
      reject(error);
    });
    child.on('close', () => underWay.delete(child));
    child.on('close', (code) =>
      code === 0
        ? resolve(output)
        : reject(new Error(`${command} ${args.join(' ')} failed (${code}).\n${output.slice(-4000)}`)),
    );
  });
}

/** True when a command can be found. */
export const has = (command) => spawnSync('sh', ['-c', `command -v ${command}`]).status === 0;

/** Starts a long-running process and waits for the JSON line in which it says that it is ready. */
export function launch(name, command, args, options = {}) {
  const child = spawn(command, args, { cwd: root, stdio: ['ignore', 'pipe', 'inherit'], detached: true, ...options });
  const ready = new Promise((resolve, reject) => {
    let text = '';
    child.stdout.on('data', (d) => {
      text += d;
      const line = text.split('\n').find((l) => l.startsWith('{"ready"'));
      if (line) resolve(JSON.parse(line));
    });
    child.on('error', reject);
    child.on('exit', (code) => reject(new Error(`The ${name} ended before it was ready (${code}).`)));
  });
  const stop = () =>
    new Promise((resolve) => {
      if (child.exitCode !== null || child.signalCode !== null) return resolve();
      child.on('exit', resolve);
      child.kill('SIGTERM');
      // A process that does not end by itself is ended after ten seconds.
      setTimeout(() => child.kill('SIGKILL'), 10_000).unref();
    });
  return { name, child, ready, stop };
}
