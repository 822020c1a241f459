import { spawn, type ChildProcess } from 'node:child_process';
import { readFileSync, rmSync, existsSync } from 'node:fs';
import path from 'node:path';
import { until } from './killing.ts';

const root = path.resolve(import.meta.dirname, '../../..');

/** What an installation keeps of itself, as its folder says. */
interface Running {
  base: string | null;
  begun: { name: string; pid: number }[];
}

/** `npm start` of a folder of its own, in a terminal that is read along. */
export class Installation {
  readonly folder: string;
  readonly #name: string;
  #child: ChildProcess | null = null;
  /** What its terminal has shown so far. */
  said = '';

  readonly #flags: string[];

  /** With `demo` it is begun as everybody begins it, else with a few people and no history. */
  constructor(name: string, { demo = false } = {}) {
    this.#name = name;
    this.#flags = demo ? [] : ['--days', '0', '--people', '5'];
    this.folder = path.join(root, '.ascenso', name);
  }

  /** Begins a start, and answers its process without waiting for anything. */
  begin(flags: string[] = [], env: Record<string, string> = {}): ChildProcess {
    this.said = '';
    const child = spawn('node', ['scripts/start.mjs', ...this.#flags, ...flags], {
      cwd: root,
      env: { ...process.env, ASCENSO_HOME: this.#name, ...env },
      stdio: ['ignore', 'pipe', 'pipe'],
      detached: true,
    });
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (d) => (this.said += String(d)));
    this.#child = child;
    return child;
  }

  async start(flags: string[] = [], env: Record<string, string> = {}): Promise<void> {
    const child = this.begin(flags, env);
    await until('it is ready', () => {
      if (child.exitCode !== null) throw new Error(`It ended: ${this.said}`);
      return this.said.includes('Ascenso is ready');
    });
  }

  get running(): Running {
    return JSON.parse(readFileSync(path.join(this.folder, 'running.json'), 'utf8')) as Running;
  }

  get base(): string {
    return this.running.base as string;
  }

  pidOf(name: string): number {
    return name === 'PostgreSQL'
      ? Number(readFileSync(path.join(this.data, 'postmaster.pid'), 'utf8').split('\n')[0])
      : (this.running.begun.find((b) => b.name === name)?.pid as number);
  }

  /** Folder of the database. */
  get data(): string {
    return readFileSync(`${this.folder}-db/where`, 'utf8');
  }

  /** Hands a signal to the launcher, and waits until it has ended. */
  async end(signal: NodeJS.Signals): Promise<void> {
    const child = this.#child;
    child?.kill(signal);
    await until('the launcher has ended', () => !child || child.exitCode !== null || child.signalCode !== null);
  }

  clear(): void {
    if (existsSync(`${this.folder}-db/where`)) rmSync(this.data, { recursive: true, force: true });
    for (const one of [this.folder, `${this.folder}-db`]) rmSync(one, { recursive: true, force: true });
  }
}

export const isAlive = (pid: number): boolean => {
  // A process that has ended and that nobody has asked after yet is a zombie: it does nothing any more.
  const stat = `/proc/${pid}/stat`;
  return existsSync(stat) && !/\) Z /.test(readFileSync(stat, 'utf8'));
};
