import type { Db, Tx } from './executor.ts';

/** PostgreSQL breaks one of two transactions off where each waits for the other (SQLSTATE: deadlock, serialization). */
const BROKEN_OFF: ReadonlySet<unknown> = new Set(['40P01', '40001']);
/** The tries of one transaction in all. */
const TRIES = 4;

/** SQLSTATE of an error, or of what caused it. */
export const codeOf = (error: unknown): unknown =>
  error instanceof Error ? ((error as { code?: unknown }).code ?? codeOf(error.cause)) : undefined;

/** Does database work again where it was broken off in favour of another's. It must leave traces in the database only. */
export async function again<T>(work: () => Promise<T>): Promise<T> {
  for (let tried = 1; ; tried++) {
    try {
      return await work();
    } catch (error) {
      if (tried === TRIES || !BROKEN_OFF.has(codeOf(error))) throw error;
    }
  }
}

/** A transaction that a caller can rely on: done again where it was broken off in favour of another. */
export const transact = <T>(db: Db, work: (tx: Tx) => Promise<T>): Promise<T> => again(() => db.transaction(work));
