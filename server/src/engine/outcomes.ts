import { sql } from 'drizzle-orm';
import { nextInWindow, zoneOf, LATE, type SendWindow } from '@ascenso/core';
import type { Connection, Db, Executor, Tx } from '../db/connect.ts';
import { batch, rows } from '../db/rows.ts';
import type { Delivery } from '../mail/transport.ts';
import { haltIfTooMany } from '../people/halting.ts';
import { bounced } from '../people/permission.ts';
import { writeTraces, type Reason } from '../people/traces.ts';
import { putOff, type LeasedRow } from './leasing.ts';
import { notePutOff, noteRefusal, WAITS } from './senders.ts';

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
        update sends s set status = 'sent', lease_until = null, answer = n.answer, sent_at = ${this.#now}, attempts = s.attempts + 1
        from jsonb_to_recordset(${batch(some)}) as n(w uuid, id uuid, answer text)
        where s.workspace_id = n.w and s.id = n.id and s.status in ('leased', 'queued')`);
    }
    this.#idle = true;
  }
}

interface Settled {
  status: 'bounced' | 'failed' | 'queued';
  answer: string;
  nextAt?: number;
  code?: 'email-bounced' | 'email-failed' | 'email-refused' | 'email-unanswered';
  data?: Reason['data'];
}

/** Writes what became of a try, and tells it in the person's story where it is news. */
async function settle(db: Executor, row: LeasedRow, s: Settled, now: number): Promise<void> {
  const settled = await rows(
    db,
    sql`update sends set status = ${s.status}, lease_until = null, answer = ${s.answer.slice(0, 1000)}, attempts = attempts + 1, next_at = coalesce(${s.nextAt ?? null}::bigint, next_at)
        where workspace_id = ${row.workspace_id} and id = ${row.id} and status in ('leased', 'queued') returning 1`,
  );
  if (settled.length === 0 || !s.code || !row.visit_id) return;
  await writeTraces(db, [
    {
      w: row.workspace_id,
      person: row.person_id,
      visit: row.visit_id,
      seq: row.sequence_id,
      version: row.version,
      at: now,
      step: row.step,
      code: s.code,
      data: s.data ?? {},
    },
  ]);
}

/** What surrounds an email that was tried. */
export interface Tried {
  row: LeasedRow;
  /** Address that it was sent from. */
  sender: string;
  /** Its window, and the zone that it is asked in; null for one that may go at any hour. */
  window: { of: SendWindow; zone: string } | null;
}

/** When an email may go that is late by more than an hour: when its window is open again. */
export const opensAt = (window: Tried['window'], at: number): number =>
  window ? nextInWindow(zoneOf(window.of.zone ?? window.zone), window.of, at) : at;

/** When an email is tried again after so many tries, or undefined after the last: in its window, if it is late by then. */
function nextTry({ row, window }: Tried, now: number): number | undefined {
  const wait = BACKOFF[row.attempts];
  if (wait === undefined) return undefined;
  const next = now + wait;
  return next - row.due_at > LATE ? opensAt(window, next) : next;
}

async function refused(
  tx: Tx,
  tried: Tried,
  { fault, stage, answer }: Extract<Delivery, { kind: 'refused' }>,
  now: number,
): Promise<void> {
  const { row } = tried;
  if (stage === 'mail') {
    // It does not want this sender, and has heard of no reader yet: that is no try of this email. Ten in a row halt.
    const halted = await noteRefusal(tx, row.workspace_id, tried.sender, answer, now);
    return putOff(tx, row, halted ? WAITS : now + (BACKOFF[0] ?? 0));
  }
  const again = nextTry(tried, now);
  if (stage === 'rcpt' && fault !== 'mailbox' && again !== undefined) {
    // A block of ours rather than a fault of the email's, which it has not seen: it is tried again, and ten in a row halt.
    const halted = await noteRefusal(tx, row.workspace_id, tried.sender, answer, now);
    return settle(tx, row, { status: 'queued', answer, nextAt: halted ? WAITS : again }, now);
  }
  if (fault === 'mailbox') {
    await settle(tx, row, { status: 'bounced', answer, code: 'email-bounced', data: { answer } }, now);
    await bounced(tx, row.workspace_id, row.person_id, now);
    const send = { visit: row.visit_id, sequence: row.sequence_id, dueAt: row.due_at };
    return haltIfTooMany(tx, row.workspace_id, send, 'bounced', now);
  }
  await settle(tx, row, { status: 'failed', answer, code: 'email-refused', data: { answer, what: fault } }, now);
  await noteRefusal(tx, row.workspace_id, tried.sender, answer, now);
}

/** Records a message that was not taken: for good, or to be tried again after a wait, in its window if it is late by then. */
export async function recordRefusal(
  connection: Connection,
  tried: Tried,
  delivery: Exclude<Delivery, { kind: 'accepted' | 'unready' }>,
  now: number,
): Promise<void> {
  const { row } = tried;
  await connection.db.transaction(async (tx) => {
    const { answer } = delivery;
    if (delivery.kind === 'refused') return refused(tx, tried, delivery, now);
    if (delivery.kind === 'unanswered')
      return settle(tx, row, { status: 'failed', answer, code: 'email-unanswered', data: {} }, now);
    // "Not now" to a sender, before any reader was named, is no try of this email.
    if (delivery.stage === 'mail') {
      await notePutOff(tx, row.workspace_id, tried.sender, answer, now);
      return putOff(tx, row, now + (BACKOFF[0] ?? 0));
    }
    const data = { attempts: row.attempts + 1, answer };
    const nextAt = nextTry(tried, now);
    if (nextAt === undefined) return settle(tx, row, { status: 'failed', answer, code: 'email-failed', data }, now);
    return settle(tx, row, { status: 'queued', answer, nextAt }, now);
  });
}
