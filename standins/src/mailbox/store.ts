import { closeSync, fstatSync, ftruncateSync, mkdirSync, openSync, readFileSync, readSync, writeSync } from 'node:fs';
import path from 'node:path';
import { gunzipSync, gzipSync } from 'node:zlib';

/** What the mailbox knows of a message without opening it. `at` is its Date header, epoch ms. */
export interface Summary {
  id: number;
  to: string;
  from: string;
  subject: string;
  at: number;
  messageId: string;
  /** Where it comes back to: the sender of its envelope. */
  path?: string;
  offset: number;
  length: number;
}

/** Messages on disk: one file of compressed sources, one of summaries, both only ever appended to. */
export class MessageStore {
  readonly #bodies: number;
  readonly #index: number;
  #end: number;
  readonly summaries: Summary[] = [];

  constructor(folder: string) {
    mkdirSync(folder, { recursive: true });
    const indexFile = path.join(folder, 'index.jsonl');
    this.#bodies = openSync(path.join(folder, 'messages.gz'), 'a+');
    this.#index = openSync(indexFile, 'a+');
    this.#end = fstatSync(this.#bodies).size;
    const text = readFileSync(indexFile, 'utf8');
    // A line without an end was cut off by a crash: its message was never acknowledged, and comes again.
    const whole = text.slice(0, text.lastIndexOf('\n') + 1);
    if (whole.length < text.length) ftruncateSync(this.#index, Buffer.byteLength(whole));
    for (const line of whole.split('\n')) if (line) this.summaries.push(JSON.parse(line) as Summary);
  }

  add(source: Buffer, about: Omit<Summary, 'id' | 'offset' | 'length'>): Summary {
    const packed = gzipSync(source, { level: 1 });
    writeSync(this.#bodies, packed);
    const summary: Summary = { ...about, id: this.summaries.length + 1, offset: this.#end, length: packed.length };
    this.#end += packed.length;
    writeSync(this.#index, `${JSON.stringify(summary)}\n`);
    this.summaries.push(summary);
    return summary;
  }

  source(summary: Summary): Buffer {
    const packed = Buffer.alloc(summary.length);
    readSync(this.#bodies, packed, 0, summary.length, summary.offset);
    return gunzipSync(packed);
  }

  close(): void {
    closeSync(this.#bodies);
    closeSync(this.#index);
  }
}
