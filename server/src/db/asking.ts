import { drizzle } from 'drizzle-orm/node-postgres';
import { UserError } from '../app/errors.ts';
import { queriesTimedOut } from '../app/metrics.ts';
import type { Db } from './executor.ts';
import { openPool, type pg } from './pool.ts';
import * as schema from './schema/index.ts';
import { codeOf } from './transact.ts';

/** Connections that all questions share, questions of one user that run at once, and ms for each. */
const CONNECTIONS = 2;
const AT_ONCE = 2;
const LONGEST_MS = 5_000;
/** How long a question waits for a connection, ms: a database that does not answer at all is told as away. */
const PATIENCE_MS = 30_000;
/** Questions of one user that wait for their turn, at most. */
const IN_LINE = 20;
/** SQLSTATE of a statement that was ended: for its time, or because nobody waits for its answer. */
const ENDED = '57014';

interface Line {
  underWay: number;
  waiting: (() => void)[];
}

/**
 * Questions that users make up, such as a condition being written: on connections of their own, so that none of them
 * keeps the engine or other people waiting, ended after five seconds or when whoever asked has gone.
 */
export class Asking {
  readonly #pool: pg.Pool;
  readonly #others: pg.Pool;
  readonly #lines = new Map<string, Line>();

  /** `others` is a pool with connections to spare: a question that is to be ended holds its own. */
  constructor(url: string, others: pg.Pool) {
    this.#others = others;
    this.#pool = openPool({ connectionString: url, max: CONNECTIONS, connectionTimeoutMillis: PATIENCE_MS });
  }

  /** Asks for one user. Throws UserError where they ask too much at once, or too long. */
  async ask<T>(user: string, gone: AbortSignal, question: (db: Db) => Promise<T>): Promise<T> {
    await this.#turn(user);
    try {
      return await this.#run(gone, question);
    } catch (error) {
      if (gone.aborted) throw new UserError(408, 'gone', 'Nobody waits for this answer any more.');
      if (codeOf(error) !== ENDED) throw error;
      queriesTimedOut.inc();
      throw new UserError(503, 'too-long', 'That takes too long to count. Ask for less at once.');
    } finally {
      this.#next(user);
    }
  }

  /** Waits for a user's turn. A screen asks for several counts at once: those wait in line, and a flood is refused. */
  async #turn(user: string): Promise<void> {
    const line = this.#lines.get(user) ?? { underWay: 0, waiting: [] };
    this.#lines.set(user, line);
    if (line.underWay < AT_ONCE) {
      line.underWay++;
      return;
    }
    if (line.waiting.length >= IN_LINE)
      throw new UserError(429, 'too-many', 'Too many of your counts are under way: wait until they are done.');
    await new Promise<void>((go) => line.waiting.push(go));
  }

  #next(user: string): void {
    const line = this.#lines.get(user);
    if (!line) return;
    const go = line.waiting.shift();
    if (go) return go();
    if (--line.underWay === 0) this.#lines.delete(user);
  }

  /** In a transaction, whose settings and whose process hold also behind a pooler. */
  async #run<T>(gone: AbortSignal, question: (db: Db) => Promise<T>): Promise<T> {
    const client = await this.#pool.connect();
    let end = () => {};
    try {
      gone.throwIfAborted();
      await client.query('begin read only');
      await client.query(`set local jit = off`);
      await client.query(`set local statement_timeout = ${LONGEST_MS}`);
      const { rows } = await client.query<{ pid: number }>('select pg_backend_pid() as pid');
      end = () => {
        this.#others.query('select pg_cancel_backend($1)', [rows[0]?.pid]).catch(() => undefined);
      };
      gone.addEventListener('abort', end);
      gone.throwIfAborted();
      return await question(drizzle(client, { schema }));
    } finally {
      gone.removeEventListener('abort', end);
      // Nothing was written: there is nothing to keep.
      await client.query('rollback').catch(() => undefined);
      client.release();
    }
  }

  close(): Promise<void> {
    return this.#pool.end();
  }
}
