import { Worker } from 'node:worker_threads';
import { z } from 'zod';
import type { Report } from './reports.ts';

/** How long one message may be read, ms, and how much memory that may take, MB. A report takes a few ms and a few MB. */
const LONGEST_MS = 5_000;
const MEMORY_MB = 128;
/** Messages that are read at once; others wait for their turn. */
const AT_ONCE = 2;

/** A message that could not be read within its time and memory. */
export class Unreadable extends Error {}

const about = { named: z.array(z.string()) };
const outcome = z.object({ to: z.string(), hard: z.boolean(), status: z.string(), words: z.string() });
const reportSchema: z.ZodType<Report> = z.union([
  z.object({ ...about, kind: z.literal('bounce'), failed: z.array(outcome), others: z.array(z.string()) }),
  z.object({ ...about, kind: z.literal('complaint'), type: z.enum(['abuse', 'fraud', 'other', 'opt-out']) }),
]);

/** Reads messages that came back, each in a thread of its own that ends when it takes too long or too much. */
export class ReportReader {
  readonly #file: URL;
  #underWay = 0;
  readonly #line: (() => void)[] = [];

  /** `file` is the built worker (`report-worker.ts`). */
  constructor(file: URL) {
    this.#file = file;
  }

  /** What a message reports; null where it is no report. Throws `Unreadable` for one that takes too long or too much. */
  async read(source: Buffer): Promise<Report | null> {
    if (this.#underWay >= AT_ONCE) await new Promise<void>((go) => this.#line.push(go));
    this.#underWay++;
    try {
      return await this.#inThread(source);
    } finally {
      this.#underWay--;
      this.#line.shift()?.();
    }
  }

  #inThread(source: Buffer): Promise<Report | null> {
    return new Promise((resolve, reject) => {
      const worker = new Worker(this.#file, {
        workerData: source,
        resourceLimits: { maxOldGenerationSizeMb: MEMORY_MB },
      });
      const end = (act: () => void) => {
        clearTimeout(timer);
        worker.terminate().catch(() => undefined);
        act();
      };
      const timer = setTimeout(
        () => end(() => reject(new Unreadable(`It was not read within ${LONGEST_MS / 1000} s.`))),
        LONGEST_MS,
      );
      worker.once('message', (told: unknown) =>
        end(() => {
          const report = reportSchema.nullable().safeParse(told);
          if (report.success) resolve(report.data);
          else reject(new Unreadable('Its reader said something else than a report.'));
        }),
      );
      worker.once('error', (error) => end(() => reject(new Unreadable(error.message))));
      worker.once('exit', () => end(() => reject(new Unreadable('Its reader ended without a word.'))));
    });
  }
}
