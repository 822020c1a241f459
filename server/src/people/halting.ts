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
 * People whose answer weighs, as `p`: they are, or were, on a list by their own word or a shop's, or have been here for a day. Who
 * has only been typed into a form, or came a moment ago to say so, stops nothing for everybody.
 */
const weighs = sql`(p.id is null or p.created_at <= s.due_at - ${DAY}::bigint
  or exists (select 1 from memberships m where m.workspace_id = p.workspace_id and m.person_id = p.id and m.state <> 'pending'))`;

/**
 * Pauses a sequence whose emails of one day (of the workspace's calendar) came back from, or were called spam by, too many people.
 * Days before it was last resumed from such a pause count no more; what asks for a confirmation is never paused: strangers
 * can have it sent to anybody. The owners are told by mail. Called in the transaction that stores the return.
 */
export async function haltIfTooMany(tx: Tx, ws: string, send: OfSend, why: Halt['why'], now: number): Promise<void> {
  if (send.visit === null) return;
  const place = await firstRow<{ name: string; zone: string; from: number }>(
    tx,
    sql`select s.name, w.zone, s.halt_from as "from" from sequences s join workspaces w on w.id = s.workspace_id
        where s.workspace_id = ${ws} and s.id = ${send.sequence} and s.status = 'live'
          and not exists (select 1 from forms f where f.workspace_id = s.workspace_id and f.sequence_id = s.id)`,
  );
  if (!place || send.dueAt < place.from) return;
  const zone = zoneOf(isZone(place.zone) ? place.zone : 'UTC');
  const local = dayNumber(zone, send.dueAt);
  const [from, to] = [fromWall(zone, local * DAY), fromWall(zone, (local + 1) * DAY)];
  // Returns that come at once are counted one after the other: each sees those before it.
  await tx.execute(sql`select pg_advisory_xact_lock(hashtextextended(${`halt ${send.sequence}`}, 0))`);
  const happened = why === 'bounced' ? sql`s.status = 'bounced'` : sql`s.complained_at is not null`;
  const day = await firstRow<{ sent: number; count: number }>(
    tx,
    sql`select count(*) filter (where s.status in ('sent', 'bounced')) as sent, count(distinct s.person_id) filter (where ${happened} and ${weighs}) as count
        from sends s left join people p on p.workspace_id = s.workspace_id and p.id = s.person_id
        where s.workspace_id = ${ws} and s.sequence_id = ${send.sequence} and s.visit_id is not null
          and s.due_at >= ${Math.max(from, place.from)} and s.due_at < ${to}`,
  );
  const { share, least } = BEARS[why];
  if (!day || day.count < least || day.count <= share * day.sent) return;
  const halt: Halt = { why, count: day.count, sent: day.sent };
  await tx.execute(
    sql`update sequences set status = 'paused', paused_at = ${now}, halted = ${JSON.stringify(halt)}::jsonb
        where workspace_id = ${ws} and id = ${send.sequence} and status = 'live'`,
  );
  await tellOwners(tx, ws, send, halt, now);
}

/** Tells the owners by mail. The visit is that of the email that was one too many: one pause is told once. */
async function tellOwners(tx: Tx, ws: string, { visit, sequence }: OfSend, { why, count, sent }: Halt, now: number) {
  const found =
    why === 'bounced'
      ? `${count} of its ${sent} emails of one day came back for good.`
      : `${count} people called its emails spam, of ${sent} that went out on one day.`;
  const text = `${found} Nothing more of it goes out until somebody resumes it.`;
  await tx.execute(sql`
    insert into notices (workspace_id, id, visit_id, sequence_id, version, step, person_id, kind, "to", text, status, due_at, next_at)
    select v.workspace_id, gen_random_uuid(), v.id, v.sequence_id, v.version, 'halt ' || u.email, v.person_id, 'halt', u.email, ${text}, 'queued', ${now}, ${now}
    from visits v join members m on m.workspace_id = v.workspace_id and m.role = 'owner' join users u on u.id = m.user_id
    where v.workspace_id = ${ws} and v.id = ${visit} and v.sequence_id = ${sequence} on conflict do nothing`);
}
