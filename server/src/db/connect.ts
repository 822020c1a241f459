import { drizzle } from 'drizzle-orm/node-postgres';
import { Asking } from './asking.ts';
import type { Db } from './executor.ts';
import { openPool, pg } from './pool.ts';
import * as schema from './schema/index.ts';

export type { Db, Executor, Tx } from './executor.ts';

export interface Connection {
  db: Db;
  pool: pg.Pool;
  /** For questions that users make up. */
  asking: Asking;
  close: () => Promise<void>;
}

/** Statements one connection keeps prepared; a text beyond them is planned at every run. */
const PREPARED_MAX = 400;
/** Stands in the text of a statement that is made up anew each time: keeping it would crowd out the others. */
export const ONCE = '/* once */';

/**
 * A client that prepares each statement at its first run. Planning costs more than running here: the query over the
 * partitions of events took 1.4 ms planned anew and 0.25 ms prepared.
 */
class PreparingClient extends pg.Client {
  readonly #names = new Map<string, string>();

  // The signature of pg is a set of overloads that no override can repeat: what is not a statement object passes through.
  override query(...args: unknown[]): never {
    const [config, ...rest] = args;
    return super.query(...([this.#prepared(config), ...rest] as unknown as [string])) as never;
  }

  #prepared(config: unknown): unknown {
    if (typeof config !== 'object' || config === null) return config;
    const { text, name } = config as pg.QueryConfig;
    if (
      typeof text !== 'string' ||
      name ||
      text.includes(ONCE) ||
      !/^\s*(select|with|insert|update|delete)\b/i.test(text)
    )
      return config;
    let known = this.#names.get(text);
    if (!known) {
      if (this.#names.size >= PREPARED_MAX) return config;
      known = `s${this.#names.size}`;
      this.#names.set(text, known);
    }
    return { ...config, name: known };
  }
}

/** How long a statement waits for a connection, ms: a database that does not answer at all is told as away. */
const PATIENCE_MS = 30_000;

export interface ConnectOptions {
  /** Connections at most. */
  max?: number;
  /**
   * A pooler such as PgBouncer stands between, which hands each transaction to whichever connection is free: then nothing
   * may be kept on a connection, neither prepared statements nor settings. The role's own settings have to hold them.
   */
  pooled?: boolean;
}

/** Opens a pool on a PostgreSQL address. */
export function connect(url: string, { max = 10, pooled = false }: ConnectOptions = {}): Connection {
  const pool = openPool({
    connectionString: url,
    max,
    connectionTimeoutMillis: PATIENCE_MS,
    ...(pooled ? {} : { Client: PreparingClient, options: '-c jit=off -c idle_in_transaction_session_timeout=60000' }),
  });
  const asking = new Asking(url, pool);
  const close = async () => {
    await Promise.all([pool.end(), asking.close()]);
  };
  return { db: drizzle(pool, { schema }), pool, asking, close };
}
