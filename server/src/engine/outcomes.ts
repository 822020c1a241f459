import { sql } from 'drizzle-orm';
import { newId } from '../app/ids.ts';
import type { Connection, Db, Executor } from '../db/connect.ts';
import { batch } from '../db/rows.ts';
import type { Delivery } from '../mail/transport.ts';
import type { LeasedRow } from './send-loop.ts';

const MINUTE = 60_000;
/** Waits between tries, ms on the business clock; after the last the send is given up. */
const BACKOFF = [5 * MINUTE, 30 * MINUTE, 2 * 60 * MINUTE, 8 * 60 * MINUTE, 24 * 60 * MINUTE];

/**
 * Records accepted messages as they come, without holding up the conversation that brought them: while one statement
 * is under way, the next ones gather and follow in one.
 */
export class AcceptedLog {
  readonly #db: Db;
  readonly #now: number;
  #waiting: { w: string; id: string; answer: string }[] = [];
  #writing: Promise<void> = Promise.resolve();
  #idle = true;

  constructor(db: Db, now: number) {
    this.#db = db;
    this.#now = now;
  }

  note(row: LeasedRow, answer: string): void {
    this.#waiting.push({ w: row.workspace_id, id: row.id, answer });
    if (!this.#idle) return;
    this.#idle = false;
    this.#writing = this.#write();
    // Told by `written`; until then it must not end the process.
    this.#writing.catch(() => undefined);
  }

  /** Resolves when everything noted has been recorded. Throws what the database threw. */
  written(): Promise<void> {
    return this.#writing;
  }

  async #write(): Promise<void> {
    while (this.#waiting.length > 0) {
      const some = this.#waiting.splice(0);
      await this.#db.execute(sql`
        update sends s set status = 'sent', lease_until = null, answer = n.answer, sent_at = ${this.#now}
        from jsonb_to_recordset(${batch(some)}) as n(w uuid, id uuid, answer text)
        where s.workspace_id = n.w and s.id = n.id and s.status in ('leased', 'queued')`);
    }
    this.#idle = true;
  }
}

interface Settled {
  status: 'cancelled' | 'bounced' | 'failed' | 'queued';
  answer?: string;
  nextAt?: number;
  code?: 'email-cancelled' | 'email-bounced' | 'email-failed';
  data?: Record<string, string | number>;
}

/** Writes what became of a send, and tells it in the person's story where it is news. */
export async function settle(db: Executor, row: LeasedRow, s: Settled, now: number): Promise<void> {
  await db.execute(
    sql`update sends set status = ${s.status}, lease_until = null, answer = ${s.answer ?? null}, next_at = coalesce(${s.nextAt ?? null}::bigint, next_at)
        where workspace_id = ${row.workspace_id} and id = ${row.id} and status in ('leased', 'queued')`,
  );
  if (s.code && row.visit_id)
    await db.execute(
      sql`insert into traces (workspace_id, person_id, id, visit_id, sequence_id, version, at, step, code, data)
          values (${row.workspace_id}, ${row.person_id}, ${newId()}, ${row.visit_id}, ${row.sequence_id}, ${row.version}, ${now}, ${row.step}, ${s.code}, ${JSON.stringify(s.data ?? {})}::jsonb)`,
    );
}

/** Records a message that was not taken: a bounce at once, anything else after a wait. */
export async function recordRefusal(
  connection: Connection,
  row: LeasedRow,
  delivery: Exclude<Delivery, { kind: 'accepted' }>,
  now: number,
): Promise<void> {
  await connection.db.transaction(async (tx) => {
    if (delivery.kind === 'refused') {
      await settle(
        tx,
        row,
        { status: 'bounced', answer: delivery.answer, code: 'email-bounced', data: { answer: delivery.answer } },
        now,
      );
      await tx.execute(
        sql`update people set mail_status = 'bounced' where workspace_id = ${row.workspace_id} and id = ${row.person_id} and mail_status <> 'complained'`,
      );
      await tx.execute(
        sql`update visits set next_due_at = least(next_due_at, ${now}) where workspace_id = ${row.workspace_id} and person_id = ${row.person_id} and status = 'active'`,
      );
      return;
    }
    const wait = BACKOFF[row.attempts - 1];
    if (wait === undefined)
      return settle(
        tx,
        row,
        {
          status: 'failed',
          answer: delivery.answer,
          code: 'email-failed',
          data: { attempts: row.attempts, answer: delivery.answer },
        },
        now,
      );
    return settle(tx, row, { status: 'queued', answer: delivery.answer, nextAt: now + wait }, now);
  });
}
