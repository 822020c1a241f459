import { sql } from 'drizzle-orm';
import type { Halt } from '@ascenso/contracts';
import { DAY, dayNumber, fromWall, isZone, zoneOf } from '@ascenso/core';
import type { Tx } from '../db/connect.ts';
import { firstRow } from '../db/rows.ts';

/**
 * What a sequence's day bears: a share of the emails sent on it, and how many there have to be before a share says
 * anything (one complaint of three emails is 33%). The shares are common practice, no published source; the numbers are ours.
 */
const BEARS = {
  complained: { share: 0.003, least: 3 },
  bounced: { share: 0.05, least: 10 },
} as const;

/** One email, as far as it is asked of: its visit (null for a test send), sequence and decided moment. */
interface OfSend {
  visit: string | null;
  sequence: string;
  dueAt: number;
}

/**
 * Pauses a sequence whose emails of one day (of the workspace's calendar) came back, or were called spam, too often. Days
 * before it was last resumed from such a pause count no more. Called in the transaction that stores the return.
 */
export async function haltIfTooMany(tx: Tx, ws: string, send: OfSend, why: Halt['why'], now: number): Promise<void> {
  if (send.visit === null) return;
  const place = await firstRow<{ zone: string; from: number }>(
    tx,
    sql`select w.zone, s.halt_from as "from" from sequences s join workspaces w on w.id = s.workspace_id
        where s.workspace_id = ${ws} and s.id = ${send.sequence} and s.status = 'live'`,
  );
  if (!place || send.dueAt < place.from) return;
  const zone = zoneOf(isZone(place.zone) ? place.zone : 'UTC');
  const local = dayNumber(zone, send.dueAt);
  const [from, to] = [fromWall(zone, local * DAY), fromWall(zone, (local + 1) * DAY)];
  // Returns that come at once are counted one after the other: each sees those before it.
  await tx.execute(sql`select pg_advisory_xact_lock(hashtextextended(${`halt ${send.sequence}`}, 0))`);
  const happened = why === 'bounced' ? sql`status = 'bounced'` : sql`complained_at is not null`;
  const day = await firstRow<{ sent: number; count: number }>(
    tx,
    sql`select count(*) filter (where status in ('sent', 'bounced')) as sent, count(*) filter (where ${happened}) as count
        from sends where workspace_id = ${ws} and sequence_id = ${send.sequence} and visit_id is not null
          and due_at >= ${Math.max(from, place.from)} and due_at < ${to}`,
  );
  const { share, least } = BEARS[why];
  if (!day || day.count < least || day.count <= share * day.sent) return;
  const halt: Halt = { why, count: day.count, sent: day.sent };
  await tx.execute(
    sql`update sequences set status = 'paused', paused_at = ${now}, halted = ${JSON.stringify(halt)}::jsonb
        where workspace_id = ${ws} and id = ${send.sequence} and status = 'live'`,
  );
}
