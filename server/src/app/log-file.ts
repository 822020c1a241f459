import path from 'node:path';
import { pino } from 'pino';
import { logLost } from './metrics.ts';

/** Days that the files of a process are kept at most, and the size at which one ends. */
const KEPT = 14;
const SIZE = '10m';
/** Between two tries to write to a disk that would not take it, ms. */
const AGAIN_MS = 30_000;

/** Since when a process cannot write its log (epoch ms, system clock), and why. */
export interface LogLoss {
  since: number;
  why: string;
}

const WORDS: Readonly<Record<string, string>> = {
  ENOSPC: 'the disk is full',
  EACCES: 'the folder may not be written to',
  EROFS: 'the disk may only be read',
  EDQUOT: 'the quota of the disk is used up',
};

/** An error that came from the thread that writes has lost its code, and has it in its words. */
const whyOf = ({ message }: Error): string => WORDS[/\bE[A-Z]+\b/.exec(message)?.[0] ?? ''] ?? message;

let loss: LogLoss | null = null;

/** What keeps this process from writing its log, or null while it is written. */
export const lossOfLog = (): LogLoss | null => loss;

/**
 * Lines in a file that rotates. A disk that does not take them ends nothing: the process goes on without its log, says so, and
 * tries again.
 */
export class LogFile {
  readonly #folder: string;
  readonly #name: string;
  readonly #againMs: number;
  #stream: ReturnType<typeof pino.transport> | null = null;

  constructor(folder: string, name: string, againMs = AGAIN_MS) {
    this.#againMs = againMs;
    this.#folder = folder;
    this.#name = name;
    this.#open();
  }

  write(line: string): void {
    try {
      this.#stream?.write(line);
    } catch (error) {
      this.#lose(error as Error);
    }
  }

  #open(): void {
    const stream = pino.transport({
      target: 'pino-roll',
      options: {
        file: path.join(this.#folder, this.#name),
        extension: '.log',
        size: SIZE,
        frequency: 'daily',
        dateFormat: 'yyyy-MM-dd',
        limit: { count: KEPT },
        mkdir: true,
      },
    });
    stream.on('error', (error: Error) => this.#lose(error));
    stream.on('ready', () => {
      // Open again is not yet written again: a full disk lets files be opened.
      if (this.#stream === stream) setTimeout(() => this.#found(stream), 1_000).unref();
    });
    this.#stream = stream;
  }

  #found(stream: unknown): void {
    if (this.#stream !== stream) return;
    loss = null;
    logLost.set(0);
  }

  #lose(error: Error): void {
    if (this.#stream === null) return;
    const lost = this.#stream;
    this.#stream = null;
    loss = { since: loss?.since ?? Date.now(), why: whyOf(error) };
    logLost.set(1);
    // What is still under way in it may fail too.
    lost.on('error', () => undefined);
    lost.end();
    setTimeout(() => {
      this.#open();
      // A line that has to find its way: only a write tells whether the disk takes it.
      this.write(`${JSON.stringify({ level: 40, time: Date.now(), msg: 'the log could not be written', ...loss })}\n`);
    }, this.#againMs).unref();
  }
}
