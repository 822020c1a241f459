import { Worker } from 'node:worker_threads';
import { z } from 'zod';
import type { Report } from './reports.ts';

/** How long one message may be read, ms, and how much memory that may take, MB. A report takes a few ms and a few MB. */
const LONGEST_MS = 5_000;
const MEMORY_MB = 128;
/** How long a thread may take to be there: a busy machine is no fault of the mail. */
const BEGINNING_MS = 120_000;
/** Messages that are read at once; others wait for their turn. */
const AT_ONCE = 2;

/** A message that could not be read within its time and memory. */
export class Unreadable extends Error {}

const about = { named: z.array(z.string()) };
const outcome = z.object({ to: z.string(), hard: z.boolean(), status: z.string(), words: z.string() });
const reportSchema: z.ZodType<Report> = z.union([
  z.object({ ...about, kind: z.literal('bounce'), failed: z.array(outcome), others: z.array(z.string()) }),
  z.object({ ...about, kind: z.literal('complaint'), type: z.enum(['abuse', 'fraud', 'other', 'opt-out']) }),
  z.object({
    ...about,
    kind: z.literal('letter'),
    by: z.enum(['person', 'answerer', 'system']),
    from: z.string(),
    subject: z.string(),
    text: z.string(),
  }),
]);

/** Reads messages that came back in threads beside the process; one that takes too long or too much ends its thread, and no other. */
export class ReportReader {
  readonly #file: URL;
  #underWay = 0;
  readonly #line: (() => void)[] = [];
  readonly #idle: Worker[] = [];

  /** `file` is the built worker (`report-worker.ts`). */
  constructor(file: URL) {
    this.#file = file;
  }

  /** What a message reports; null where it says nothing. Throws `Unreadable` for one that takes too long or too much. */
  async read(source: Buffer): Promise<Report | null> {
    if (this.#underWay >= AT_ONCE) await new Promise<void>((go) => this.#line.push(go));
    this.#underWay++;
    let worker: Worker | undefined;
    try {
      worker = this.#idle.pop() ?? (await this.#begin());
      const report = await this.#asked(worker, source);
      this.#idle.push(worker);
      return report;
    } catch (error) {
      worker?.terminate().catch(() => undefined);
      throw error;
    } finally {
      this.#underWay--;
      this.#line.shift()?.();
    }
  }

  /** A thread that is ready to read. It keeps no process alive. */
  async #begin(): Promise<Worker> {
    const worker = new Worker(this.#file, { resourceLimits: { maxOldGenerationSizeMb: MEMORY_MB } });
    // One that ends while it is idle is not asked again; while it reads, whoever asked hears it too.
    worker.on('error', () => undefined);
    worker.on('exit', () => this.#idle.splice(0, this.#idle.length, ...this.#idle.filter((w) => w !== worker)));
    await told(worker, BEGINNING_MS, 'No thread to read it has begun');
    worker.unref();
    return worker;
  }

  async #asked(worker: Worker, source: Buffer): Promise<Report | null> {
    worker.ref();
    try {
      const answer = told(worker, LONGEST_MS, 'It was not read');
      worker.postMessage(Uint8Array.from(source));
      const report = reportSchema.nullable().safeParse(await answer);
      if (!report.success) throw new Unreadable('Its reader said something else than a report.');
      return report.data;
    } finally {
      worker.unref();
    }
  }
}

/** What a thread says next, within so many ms. */
function told(worker: Worker, ms: number, or: string): Promise<unknown> {
  return new Promise((resolve, reject) => {
    const end = (act: () => void) => {
      clearTimeout(timer);
      worker.off('message', heard).off('error', failed).off('exit', gone);
      act();
    };
    const heard = (said: unknown) => end(() => resolve(said));
    const failed = (error: Error) => end(() => reject(new Unreadable(error.message)));
    const gone = () => end(() => reject(new Unreadable('Its reader ended without a word.')));
    const timer = setTimeout(() => end(() => reject(new Unreadable(`${or} within ${ms / 1000} s.`))), ms);
    worker.on('message', heard).on('error', failed).on('exit', gone);
  });
}
